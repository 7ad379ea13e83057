//! A set list worked out on the kit as it is measured.

mod cache;
mod page;
mod question;

pub use cache::SetupCache;
pub use page::{
    CellView, ChangeView, EveningDrumView, EveningPlanView, EveningSong, EveningView, PlacedThing, RowView, SetupView, evening,
};
pub use question::EveningQuestion;
