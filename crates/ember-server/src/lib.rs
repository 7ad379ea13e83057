//! lib
