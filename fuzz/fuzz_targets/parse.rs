//! No text makes the parser or the compiler panic, and every error has a place in the text.
#![no_main]

use keen_notch_core::{Plan, PlanError, PlanOptions, parse_assignment, parse_cut};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let options = PlanOptions { start: Some("lot".to_owned()), ..PlanOptions::default() };
    for parsed in [parse_assignment(text), parse_cut(text)] {
        match parsed {
            Err(error) => assert!(text.get(error.span).is_some()),
            Ok(assignment) => {
                if let Err(PlanError::Cut(_, error)) =
                    Plan::compile(&[assignment], &["lot".to_owned(), "n".to_owned()], &options)
                {
                    assert!(text.get(error.span).is_some());
                }
            }
        }
    }
});
