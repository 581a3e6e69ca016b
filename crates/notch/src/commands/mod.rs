//! The commands.

pub mod carve;
pub mod check;
pub mod compare;
pub mod completions;
pub mod demo;
pub mod files;
pub mod jig;
pub mod learn;
mod second_pass;
mod session;
pub mod survey;
pub mod tally;
pub mod trace;
mod unique;
pub mod words;
