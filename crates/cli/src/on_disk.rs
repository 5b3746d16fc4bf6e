//! A shot file with the media beside it.

use crate::Failure;
use jugata_exchange::Limits;
use jugata_shot::engine::CacheSizes;
use jugata_shot::media::Folders;
use jugata_shot::{Engine, Shot, check};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// A shot file, and what evaluates it with the files beside it.
pub struct OnDisk {
    pub engine: Engine,
    pub shot: Shot,
    pub folders: Arc<Folders>,
}

impl OnDisk {
    /// Opens a shot file; its media lie beside it, or in other folders.
    pub fn open(path: &Path, media: Vec<PathBuf>) -> Result<Self, Failure> {
        let text = std::fs::read_to_string(path).map_err(|e| format!("{}: {e}", path.display()))?;
        let shot = check::parse(&text)?;
        if let Some(none) = media.iter().find(|f| !f.is_dir()) {
            return Err(format!(
                "{} is no folder; --media names a folder with the shot's files.",
                none.display()
            )
            .into());
        }
        let beside = path.parent().unwrap_or(Path::new(".")).to_owned();
        let folders = Arc::new(Folders::new(std::iter::once(beside).chain(media).collect()));
        let engine = Engine::new(Box::new(folders.clone()), Limits::default(), CacheSizes::default());
        Ok(Self { engine, shot, folders })
    }
}

/// Names files that are not those that a shot was made with.
pub fn tell_differing(folders: &Folders) {
    for name in folders.differing() {
        eprintln!("{name} is not the file that this shot was made with; it was used all the same.");
    }
}
