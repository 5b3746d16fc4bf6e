//! The rooms that every route shares.

use crate::config::Config;
use crate::desk::Desk;
use crate::followed::Followed;
use crate::news::News;
use crate::troubles::{Troubles, path_of};
use crate::viewers::Viewers;
use crate::wire;
use jugata_shot::Engine;
use jugata_store::media::{StoreLibrary, settle_tls};
use jugata_store::{MediaStore, Store, StoreError};
use rocket::tokio::sync::Notify;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

/// What every route shares.
pub struct App {
    /// Shots and revisions.
    pub store: Store,
    /// Media files.
    pub media: MediaStore,
    /// Evaluates documents.
    pub engine: Arc<Engine>,
    /// The same for what is made ahead.
    pub ahead: Engine,
    /// Who waits for what.
    pub viewers: Viewers,
    /// What is being worked on.
    pub desk: Desk,
    /// Tells pages of shots that change because files arrive.
    pub news: News,
    /// What keeps files of the drop folder from coming in, for now.
    pub troubles: Mutex<Troubles>,
    /// Tracks that are being followed.
    pub followed: Followed,
    /// Wakes the server's own worker.
    pub jobs: Notify,
    /// What keeps frames from being put into the folder for hand-off, for now.
    pub out_trouble: Mutex<Option<String>>,
    /// Bounds.
    pub config: Config,
}

/// Opens the rooms: connects to the database, migrates, opens the media store. Call inside a Tokio runtime.
///
/// # Errors
/// No database, a failed migration, a folder that cannot be made.
pub async fn open(config: Config) -> Result<Arc<App>, StoreError> {
    settle_tls();
    let url = config.database.clone();
    let store = rocket::tokio::task::spawn_blocking(move || Store::connect(&url))
        .await
        .map_err(|e| StoreError::Connection(e.to_string()))??;
    let media = MediaStore::open(&config.media)?;
    media.take_over()?;
    let library = StoreLibrary::new(media.clone(), rocket::tokio::runtime::Handle::current());
    let [most, part] = config.caches.parted();
    let engine = Arc::new(Engine::new(Box::new(library), config.limits, most));
    let ahead = engine.beside(part);
    Ok(Arc::new(App {
        store,
        media,
        engine,
        ahead,
        viewers: Default::default(),
        desk: Desk::default(),
        news: Default::default(),
        troubles: Mutex::default(),
        followed: Default::default(),
        jobs: Notify::new(),
        out_trouble: Mutex::default(),
        config,
    }))
}

impl App {
    /// What keeps files from coming in, for now.
    pub(crate) fn troubles(&self) -> MutexGuard<'_, Troubles> {
        self.troubles.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Where the folder for hand-off is, and what keeps frames from being put there.
    pub fn outbox(&self) -> wire::Outbox {
        wire::Outbox {
            folder: self.config.out.as_ref().map(|f| f.display().to_string()),
            trouble: self.out_trouble.lock().unwrap_or_else(PoisonError::into_inner).clone(),
        }
    }

    /// Where the drop folder is, and what was not taken from it.
    pub fn delivery(&self) -> wire::Delivery {
        let passing: Vec<String> = self.troubles().told().collect();
        let refused = self.config.drop.as_ref().and_then(|_| self.store.refused().ok()).unwrap_or_default();
        let final_ones = refused.iter().map(|f| {
            format!("{}: {}", path_of(&f.folder, &f.name), f.refused.as_deref().unwrap_or_default())
        });
        wire::Delivery {
            folder: self.config.drop.as_ref().map(|f| f.display().to_string()),
            refused: passing.into_iter().chain(final_ones).collect(),
        }
    }
}
