//! `notch`: see the library beside it.

use std::process::ExitCode;

fn main() -> ExitCode {
    notch::run()
}
