//! How long texts are where they come from.

use std::fmt;
use std::sync::Arc;

/// Tells how many bytes a text takes in the encoding of a file.
#[derive(Clone)]
pub struct ByteWidth(pub Arc<dyn Fn(&str) -> usize + Send + Sync>);

impl fmt::Debug for ByteWidth {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("ByteWidth")
    }
}
