//! Parquet and Arrow, files and streams. Nothing panics, and both ways of reading agree.
#![no_main]

use keen_notch_table::ReadOptions;
use libfuzzer_sys::fuzz_target;
use notch_fuzz::{catch_what_the_readers_catch, read, with_file};

fuzz_target!(init: catch_what_the_readers_catch(), |bytes: &[u8]| {
    let options = ReadOptions { unpack_limit: Some(64_000_000), ..ReadOptions::default() };
    with_file(bytes, ".parquet", |path| read(path, &options));
});
