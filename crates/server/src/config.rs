//! Where things are, and bounds.

use jugata_exchange::Limits;
use jugata_shot::engine::CacheSizes;
use jugata_store::MediaPlace;
use std::path::PathBuf;

/// Settings of the server.
#[derive(Clone, Debug)]
pub struct Config {
    /// Address of the database.
    pub database: String,
    /// Where media are kept.
    pub media: MediaPlace,
    /// Folder of the built web interface.
    pub web: PathBuf,
    /// Folder into which renderers deliver; none is watched if not said.
    pub drop: Option<PathBuf>,
    /// Folder into which ranges of frames are put that ask for it; none can if not said.
    pub out: Option<PathBuf>,
    /// Port on loopback; 0 picks a free one.
    pub port: u16,
    /// Bytes of an upload.
    pub upload_bytes: u64,
    /// Bytes of a JSON body: a document of many steps has some hundred kilobytes.
    pub json_bytes: u64,
    /// Bounds on image files.
    pub limits: Limits,
    /// Bounds of the engine's caches.
    pub caches: CacheSizes,
}

impl Config {
    /// Settings with the usual bounds.
    pub fn new(database: String, media: impl Into<MediaPlace>, web: PathBuf, port: u16) -> Self {
        Self {
            database,
            media: media.into(),
            web,
            drop: None,
            out: None,
            port,
            upload_bytes: 2 << 30,
            json_bytes: 4 << 20,
            limits: Limits::default(),
            caches: CacheSizes::default(),
        }
    }
}
