//! How long a computation may go on. The core has no clock: whoever asks says when the answer is no longer waited for.

/// Asked now and then by everything that could take long; once it is over, what has been found so far is the answer.
#[derive(Clone, Copy, Default)]
pub struct Patience<'a>(Option<&'a (dyn Fn() -> bool + Sync)>);

impl<'a> Patience<'a> {
    /// Never over: the computation runs to its end.
    pub const ENDLESS: Patience<'static> = Patience(None);

    /// Over as soon as `over` says so, from any thread.
    pub fn until(over: &'a (dyn Fn() -> bool + Sync)) -> Self {
        Self(Some(over))
    }

    /// Whether the answer is no longer waited for.
    pub fn is_over(&self) -> bool {
        self.0.is_some_and(|over| over())
    }
}

impl std::fmt::Debug for Patience<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(if self.0.is_some() { "Patience(limited)" } else { "Patience(endless)" })
    }
}
