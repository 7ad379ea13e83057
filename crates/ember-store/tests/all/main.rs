//! All tests of the store, as one program: it is linked once.

mod heads;
mod keeps;
mod kits;
mod old_files;
mod reliable;
mod tonight;
mod tuning;
