//! What is kept, bounded in bytes.

use super::key::ContentHash;
use super::pose::{Pose, ToldBy};
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

impl CacheSizes {
    /// Most of it, and a part for what is made ahead.
    pub fn parted(self) -> [Self; 2] {
        let part = |of: u64| of / 4;
        let ahead = Self { files: part(self.files), results: part(self.results), ..self };
        [Self { files: self.files - ahead.files, results: self.results - ahead.results, ..self }, ahead]
    }
}

impl Default for CacheSizes {
    fn default() -> Self {
        Self { files: 1 << 30, results: 1 << 30, at_once: 8 << 30 }
    }
}

/// Poses that are remembered.
const POSES: u64 = 16_384;

/// Contents whose last window is remembered.
const WINDOWS: u64 = 4096;

pub(super) struct Caches {
    /// Decoded media files.
    pub files: Kept<MediaId, Arc<ImageFile>>,
    /// Rasters by what made them.
    pub results: Kept<ContentHash, Arc<Raster>>,
    /// The window that each content was worked out on last, by content and scale.
    pub windows: Kept<ContentHash, Window>,
    /// Where kinds move pictures.
    pub moves: Kept<ContentHash, Moves>,
    /// Colour tables.
    pub luts: Kept<MediaId, Arc<Lut>>,
    /// Where cameras stand as files tell it, by file, part and what tells it.
    pub poses: Kept<(MediaId, u32, ToldBy), Option<Pose>>,
    /// Findings by the passes that they are about.
    pub findings: Kept<ContentHash, Arc<Vec<Finding>>>,
}

/// A cache that drops what was used longest ago; it may know another, from which it takes and which it does not fill.
pub(super) struct Kept<K, V> {
    own: Cache<K, V>,
    weigh: fn(&V) -> usize,
    beside: Option<Cache<K, V>>,
}

impl<K: Hash + Eq + Send + Sync + 'static, V: Clone + Send + Sync + 'static> Kept<K, V> {
    /// (The crate's default keeps what is asked for most, which would turn away each new picture of a drag.)
    fn bounded(bytes: u64, weigh: fn(&V) -> usize) -> Self {
        let own = Cache::builder()
            .max_capacity(bytes)
            .eviction_policy(EvictionPolicy::lru())
            .weigher(move |_, v| u32::try_from(weigh(v)).unwrap_or(u32::MAX))
            .build();
        Self { own, weigh, beside: None }
    }

    /// What is kept here, or beside.
    pub fn get(&self, key: &K) -> Option<V> {
        self.own.get(key).or_else(|| self.beside.as_ref()?.get(key))
    }

    /// Keeps something; what is too large for this goes beside.
    pub fn insert(&self, key: K, value: V) {
        let fits = self.own.policy().max_capacity().is_none_or(|most| (self.weigh)(&value) as u64 <= most);
        match &self.beside {
            Some(beside) if !fits => beside.insert(key, value),
            _ => self.own.insert(key, value),
        }
    }

    /// What is kept here or beside, else what `load` gives, however many ask at the same time.
    pub fn try_get_with<E: Send + Sync + 'static>(
        &self,
        key: K,
        load: impl FnOnce() -> Result<V, E>,
    ) -> Result<V, Arc<E>> {
        match (&self.beside, self.get(&key)) {
            (_, Some(kept)) => Ok(kept),
            (None, None) => self.own.try_get_with(key, load),
            (Some(_), None) => {
                let loaded = load().map_err(Arc::new)?;
                self.insert(key, loaded.clone());
                Ok(loaded)
            }
        }
    }

    fn knowing(self, other: &Self) -> Self {
        Self { beside: Some(other.own.clone()), ..self }
    }
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
    fn of<K: Hash + Eq + Send + Sync + 'static, V: Clone + Send + Sync + 'static>(kept: &Kept<K, V>) -> Self {
        kept.own.run_pending_tasks();
        Self { bytes: kept.own.weighted_size(), most: kept.own.policy().max_capacity().unwrap_or(0) }
    }

    fn and(self, other: Self) -> Self {
        Self { bytes: self.bytes + other.bytes, most: self.most + other.most }
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

impl Memory {
    /// Both together.
    pub fn and(self, other: Self) -> Self {
        Self { files: self.files.and(other.files), results: self.results.and(other.results) }
    }
}

impl Caches {
    /// What is held now.
    pub fn memory(&self) -> Memory {
        Memory {
            files: MemoryUse::of(&self.files).and(MemoryUse::of(&self.luts)),
            results: MemoryUse::of(&self.results).and(MemoryUse::of(&self.findings)),
        }
    }

    /// Caches of their own that take from these, too, and leave them as they are.
    pub fn beside(&self, sizes: CacheSizes) -> Self {
        let own = Self::new(sizes);
        Self {
            files: own.files.knowing(&self.files),
            results: own.results.knowing(&self.results),
            windows: own.windows.knowing(&self.windows),
            moves: own.moves.knowing(&self.moves),
            luts: own.luts.knowing(&self.luts),
            poses: own.poses.knowing(&self.poses),
            findings: own.findings.knowing(&self.findings),
        }
    }

    pub fn new(sizes: CacheSizes) -> Self {
        Self {
            files: Kept::bounded(sizes.files - sizes.files / 8, |f: &Arc<ImageFile>| f.bytes()),
            results: Kept::bounded(sizes.results - sizes.results / 8, |r: &Arc<Raster>| r.bytes()),
            windows: Kept::bounded(WINDOWS, |_| 1),
            moves: Kept::bounded(sizes.results / 8, |m: &Moves| m.by.bytes()),
            luts: Kept::bounded(sizes.files / 8, |l: &Arc<Lut>| l.bytes()),
            poses: Kept::bounded(POSES, |_| 1),
            findings: Kept::bounded(sizes.results / 8, |f: &Arc<Vec<Finding>>| {
                f.iter().map(|f| 512 + f.place.as_ref().map_or(0, |p| p.bytes())).sum()
            }),
        }
    }
}
