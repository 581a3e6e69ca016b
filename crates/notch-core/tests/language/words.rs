//! Every example of the table of words gives what the table says.

use keen_notch_core::{evaluate_example, words};

#[test]
fn every_example_holds() {
    let mut wrong = Vec::new();
    for word in words() {
        // What asks about all rows has nothing to say of one text.
        assert!(
            !word.examples.is_empty() || word.name == "is unique",
            "{} has no example",
            word.name
        );
        for example in word.examples {
            match evaluate_example(example) {
                Ok(given) if given == example.gives => {}
                Ok(given) => wrong.push(format!(
                    "{} of {:?}: {given:?}, not {:?}",
                    example.cut, example.cell, example.gives
                )),
                Err(error) => wrong.push(format!(
                    "{}: {error} at {:?} {:?}",
                    example.cut, error.span, error.remedies
                )),
            }
        }
    }
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}
