//! What the program says. A sentence is kept as a template in English with the values in it ([`Words`]); it becomes a text only where it is shown, in the
//! language of whoever reads it ([`said_in`]). So a rule says what it found and never how a number is written, and another language, or a better wording,
//! is one file (`locales/`), in the usual format of translators (PO).

#![forbid(unsafe_code)]
#![warn(missing_docs)]

// The macros name this crate by its name, here too.
extern crate self as ember_words;

mod language;
mod template;
mod value;
mod words;

pub use ember_words_macros::{Said, text, words};
pub use language::{Language, said_in};
pub use value::{Joined, ToValue, Value};
pub use words::{Say, Text, Words};
