//! What is kept, bounded in bytes.

use super::key::ContentHash;
use crate::document::MediaId;
use crate::steps::Moves;
use jugata_core::colour::lut::Lut;
use jugata_core::passes::checks::Finding;
use jugata_core::{Raster, Window};
use jugata_exchange::ImageFile;
use moka::policy::EvictionPolicy;
use moka::sync::Cache;
use serde::Serialize;
use std::hash::Hash;
use std::sync::Arc;
use ts_rs::TS;

/// Bounds of memory, bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct CacheSizes {
    /// Decoded files.
    pub files: u64,
    /// Canonical passes and results.
    pub results: u64,
    /// What one request may need at once beside these.
    pub at_once: u64,
}

impl Default for CacheSizes {
    fn default() -> Self {
        Self { files: 1 << 30, results: 1 << 30, at_once: 8 << 30 }
    }
}

/// Contents whose last window is remembered.
const WINDOWS: u64 = 4096;

pub(super) struct Caches {
    /// Decoded media files.
    pub files: Cache<MediaId, Arc<ImageFile>>,
    /// Rasters by what made them.
    pub results: Cache<ContentHash, Arc<Raster>>,
    /// The window that each content was worked out on last, by content and scale.
    pub windows: Cache<ContentHash, Window>,
    /// Where kinds move pictures.
    pub moves: Cache<ContentHash, Moves>,
    /// Colour tables.
    pub luts: Cache<MediaId, Arc<Lut>>,
    /// Findings by the passes that they are about.
    pub findings: Cache<ContentHash, Arc<Vec<Finding>>>,
}

/// A cache that drops what was used longest ago. (The crate's default keeps what is asked for most, which
/// would turn away each new picture of a drag.)
fn bounded<K: Hash + Eq + Send + Sync + 'static, V: Clone + Send + Sync + 'static>(
    bytes: u64,
    weigh: fn(&V) -> usize,
) -> Cache<K, V> {
    Cache::builder()
        .max_capacity(bytes)
        .eviction_policy(EvictionPolicy::lru())
        .weigher(move |_, v| u32::try_from(weigh(v)).unwrap_or(u32::MAX))
        .build()
}

/// What a cache holds, bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, TS)]
pub struct MemoryUse {
    /// Now.
    #[ts(type = "number")]
    pub bytes: u64,
    /// At most.
    #[ts(type = "number")]
    pub most: u64,
}

impl MemoryUse {
    fn of<K: Hash + Eq + Send + Sync + 'static, V: Clone + Send + Sync + 'static>(c: &Cache<K, V>) -> Self {
        c.run_pending_tasks();
        Self { bytes: c.weighted_size(), most: c.policy().max_capacity().unwrap_or(0) }
    }
}

/// Memory that the engine holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, TS)]
pub struct Memory {
    /// Decoded files and colour tables.
    pub files: MemoryUse,
    /// Canonical passes, results, findings.
    pub results: MemoryUse,
}

impl Caches {
    /// What is held now.
    pub fn memory(&self) -> Memory {
        let both = |a: MemoryUse, b: MemoryUse| MemoryUse { bytes: a.bytes + b.bytes, most: a.most + b.most };
        Memory {
            files: both(MemoryUse::of(&self.files), MemoryUse::of(&self.luts)),
            results: both(MemoryUse::of(&self.results), MemoryUse::of(&self.findings)),
        }
    }

    pub fn new(sizes: CacheSizes) -> Self {
        Self {
            files: bounded(sizes.files - sizes.files / 8, |f: &Arc<ImageFile>| f.bytes()),
            results: bounded(sizes.results - sizes.results / 8, |r: &Arc<Raster>| r.bytes()),
            windows: Cache::new(WINDOWS),
            moves: bounded(sizes.results / 8, |m: &Moves| m.by.bytes()),
            luts: bounded(sizes.files / 8, |l: &Arc<Lut>| l.bytes()),
            findings: bounded(sizes.results / 8, |f: &Arc<Vec<Finding>>| {
                f.iter().map(|f| 512 + f.place.as_ref().map_or(0, |p| p.bytes())).sum()
            }),
        }
    }
}
