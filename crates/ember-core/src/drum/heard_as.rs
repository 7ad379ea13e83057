//! In which of its own states a drum is heard: a hi-hat closed, a kick with a pillow that stays in it. What was measured in one state says nothing of
//! another, so that takes are kept apart by it.

use super::kit::{Drum, Inside, Struck};
use ember_words::{Joined, Words, words};

const SECOND_SHELL: &str = "second_shell";
const APART: char = '+';

impl Drum {
    /// The state in which it is heard now, as a code; none where it is as usual and empty.
    pub fn heard_as(&self) -> Option<String> {
        let struck = self.struck_otherwise().map(Struck::code);
        let inside = self.inside.map(Inside::code);
        let shell = self.second_shell.then_some(SECOND_SHELL);
        let parts: Vec<&str> = [struck, inside, shell].into_iter().flatten().collect();
        (!parts.is_empty()).then(|| parts.join(&APART.to_string()))
    }
}

/// A state of [`Drum::heard_as`] in words: "closed", "with a pillow in it".
pub fn heard_as_words(code: &str) -> Words {
    let words = |part: &str| {
        let struck = Struck::ALL.into_iter().find(|struck| struck.code() == part).map(|struck| struck.words().words());
        let inside = || Inside::ALL.into_iter().find(|inside| inside.code() == part).map(|inside| words!("with {} in it", inside.words()));
        struck.or_else(inside).unwrap_or_else(|| if part == SECOND_SHELL { words!("with its second shell") } else { Words::verbatim(part) })
    };
    Words::list(Joined::Comma, code.split(APART).map(words))
}

#[cfg(test)]
mod tests {
    use super::super::kit::DrumKind;
    use super::*;
    use ember_words::text;

    #[test]
    fn a_drum_in_another_state_is_another_sound() {
        let hat = Drum::usual(DrumKind::HiHat);
        let struck = |struck| Drum { struck: Some(struck), ..hat.clone() }.heard_as();
        assert_eq!((hat.heard_as(), struck(Struck::Open)), (None, None), "open is as usual, said or not");
        assert_eq!(struck(Struck::Closed).as_deref().map(heard_as_words), Some(text!("closed").words()));
        let kick = Drum { inside: Some(Inside::Pillow), second_shell: true, ..Drum::usual(DrumKind::Kick) };
        assert_eq!(heard_as_words(&kick.heard_as().unwrap()), "with a pillow in it, with its second shell");
        assert_eq!(kick.validate(), Ok(()));
        assert!(Drum { struck: Some(Struck::Closed), ..Drum::usual(DrumKind::Tom) }.validate().is_err());
        assert!(Drum { second_shell: true, ..Drum::usual(DrumKind::Tom) }.validate().is_err());
    }
}
