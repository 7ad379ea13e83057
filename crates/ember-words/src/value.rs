//! What stands in a sentence's braces.

use crate::words::{Text, Words};
use serde::{Deserialize, Serialize};

/// How things are put one after another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Joined {
    /// "a, b and c".
    And,
    /// "a, b or c".
    Or,
    /// "a, b, c".
    Comma,
    /// "a b c", for sentences.
    Space,
    /// "a; b; c".
    Semicolon,
}

/// A value in a sentence.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Value {
    /// A name, said as it is in every language.
    Name(String),
    /// A number; how many decimals it has is said by the template.
    Number(f64),
    /// A sentence or a part of one.
    Words(Words),
    /// The same, beginning with a capital letter.
    Capital(Words),
    /// The same within another sentence: without its full stop, and beginning with a small letter where the language has it so.
    Within(Words),
    /// The same without its full stop.
    Headline(Words),
    /// Several, one after another.
    List(Joined, Vec<Words>),
}

/// What can stand in a sentence.
pub trait ToValue {
    /// The value.
    fn to_value(&self) -> Value;
}

impl<T: ToValue + ?Sized> ToValue for &T {
    fn to_value(&self) -> Value {
        (**self).to_value()
    }
}

impl ToValue for str {
    fn to_value(&self) -> Value {
        Value::Name(self.to_string())
    }
}

impl ToValue for String {
    fn to_value(&self) -> Value {
        Value::Name(self.clone())
    }
}

impl ToValue for Words {
    fn to_value(&self) -> Value {
        Value::Words(self.clone())
    }
}

impl ToValue for Text {
    fn to_value(&self) -> Value {
        Value::Words(self.words())
    }
}

impl ToValue for Value {
    fn to_value(&self) -> Value {
        self.clone()
    }
}

impl ToValue for f64 {
    fn to_value(&self) -> Value {
        Value::Number(*self)
    }
}

/// Whole numbers, small enough for a `f64` to hold them as they are.
macro_rules! whole_numbers {
    ($($kind:ty),+) => {
        $(impl ToValue for $kind {
            fn to_value(&self) -> Value {
                Value::Number(*self as f64)
            }
        })+
    };
}

whole_numbers!(u8, u16, u32, u64, usize, i8, i16, i32, i64);

/// What is told by somebody else, in the words that it has.
macro_rules! as_displayed {
    ($($kind:ty),+) => {
        $(impl ToValue for $kind {
            fn to_value(&self) -> Value {
                Value::Name(self.to_string())
            }
        })+
    };
}

as_displayed!(std::path::Display<'_>, std::io::Error);
