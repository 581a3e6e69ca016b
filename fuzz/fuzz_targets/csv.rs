//! Separated text in any encoding, and plain lines. Nothing panics, and both ways of reading agree.
#![no_main]

use keen_notch_table::{From, ReadOptions, encoding_of};
use libfuzzer_sys::fuzz_target;
use notch_fuzz::{catch_what_the_readers_catch, read, with_file};

fuzz_target!(init: catch_what_the_readers_catch(), |bytes: &[u8]| {
    let [choice, text @ ..] = bytes else { return };
    let from = match choice % 4 {
        0 => Some(From::Lines),
        1 => Some(From::Text(Some(b'\t'))),
        2 => Some(From::Text(None)),
        _ => None,
    };
    let encoding = (choice & 16 != 0).then(|| encoding_of("windows-1252").ok()).flatten();
    let options = ReadOptions { from, encoding, no_header: choice & 32 != 0, ..ReadOptions::default() };
    with_file(text, ".csv", |path| read(path, &options));
});
