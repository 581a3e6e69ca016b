//! The program as built, run on files in a temporary folder.

mod carve;
mod demo;
mod messages;
mod support;
mod words;
