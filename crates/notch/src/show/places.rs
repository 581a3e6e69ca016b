//! Where a row stood, in JSON.

use keen_notch_table::Whereabouts;
use serde_json::Value;

/// An object with the line in its file under that key, and the file beside it where it is one of
/// several.
pub fn at(places: &Whereabouts, key: &str, line: u64, mut object: Value) -> Value {
    let (line, file) = places.stood(line);
    object[key] = line.into();
    if let Some(file) = file {
        object["file"] = file.into();
    }
    object
}
