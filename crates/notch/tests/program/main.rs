//! The program as built, run on files in a temporary folder.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that fails says so by panicking")]

mod carve;
mod check;
mod demo;
mod doubts;
mod formats;
mod guide;
mod habits;
mod jig;
mod jobs;
mod learn;
mod messages;
mod objects;
mod pages;
mod support;
mod survey;
mod tally;
mod trace;
mod words;
