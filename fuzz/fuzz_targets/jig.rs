//! No text makes the reader of jigs panic.
#![no_main]

use libfuzzer_sys::fuzz_target;
use notch_fuzz::{catch_what_the_readers_catch, with_file};

fuzz_target!(init: catch_what_the_readers_catch(), |text: &str| {
    with_file(text.as_bytes(), ".toml", |path| {
        let _ = keen_notch::is_jig(path);
    });
});
