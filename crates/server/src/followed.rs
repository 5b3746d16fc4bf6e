//! Tracks that are being followed.

use jugata_core::Cancel;
use std::collections::HashMap;
use std::sync::Mutex;
use uuid::Uuid;

/// Tracks that are being followed, by shot, element and number.
pub type Followed = Mutex<HashMap<(Uuid, u32, u32), Cancel>>;
