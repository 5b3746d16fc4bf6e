//! What is refused, as they are sent.

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A failure in one sentence.
#[derive(Debug, Serialize, Deserialize, TS)]
pub struct Refusal {
    /// The sentence.
    pub error: String,
}
