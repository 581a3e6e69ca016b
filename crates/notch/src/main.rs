//! `notch`: see the library beside it.

use std::process::ExitCode;

fn main() -> ExitCode {
    keen_notch::run()
}
