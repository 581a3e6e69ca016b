//! JSON: a list of objects, or one a line. Nothing panics, and both ways of reading agree.
#![no_main]

use keen_notch_table::{From, ReadOptions};
use libfuzzer_sys::fuzz_target;
use notch_fuzz::{catch_what_the_readers_catch, read, with_file};

fuzz_target!(init: catch_what_the_readers_catch(), |bytes: &[u8]| {
    let options = ReadOptions { from: Some(From::Json), ..ReadOptions::default() };
    with_file(bytes, ".json", |path| read(path, &options));
});
