//! The macros of `ember-words`. They read a sentence's template when the program is built, so that a placeholder without a value is found then.

mod derive;
mod sentence;

use proc_macro::TokenStream;

/// A sentence with values in it, written as for `format!`: `words!("{by_s:.2} s too long: it rang on for {} beats", beats)`.
#[proc_macro]
pub fn words(tokens: TokenStream) -> TokenStream {
    sentence::words(tokens.into()).unwrap_or_else(syn::Error::into_compile_error).into()
}

/// A text without values, as a constant: `text!("Gel pad")`.
#[proc_macro]
pub fn text(tokens: TokenStream) -> TokenStream {
    sentence::text(tokens.into()).unwrap_or_else(syn::Error::into_compile_error).into()
}

/// What an error or any other enum says, with `#[said("{name} is {0}", .length_in)]` on each variant; `#[said(transparent)]` leaves it to the one
/// field. Implements `Say`, `ToValue` and `Display`.
#[proc_macro_derive(Said, attributes(said))]
pub fn said(tokens: TokenStream) -> TokenStream {
    derive::said(tokens.into()).unwrap_or_else(syn::Error::into_compile_error).into()
}
