//! Files by the hash of their bytes.

use crate::error::StoreError;
use crate::schema::media;
use crate::shots::Store;
use diesel::prelude::*;
use jugata_shot::ShotError;
use jugata_shot::document::{MediaId, Source};
use jugata_shot::media::{Library, media_path};
use object_store::local::LocalFileSystem;
use object_store::path::Path as ObjectPath;
use object_store::{ObjectStore, ObjectStoreExt, PutPayload};
use std::path::Path;
use std::sync::Arc;
use tokio::runtime::Handle;

/// Files in an object store, addressed by BLAKE3 hash and never altered.
#[derive(Clone, Debug)]
pub struct MediaStore {
    objects: Arc<dyn ObjectStore>,
}

impl MediaStore {
    /// A store in a local folder, which is made if it is not there. The object store writes to a temporary
    /// name and renames, so a file is there whole or not at all.
    ///
    /// # Errors
    /// A folder that cannot be made.
    pub fn local(folder: &Path) -> Result<Self, StoreError> {
        std::fs::create_dir_all(folder)?;
        Ok(Self { objects: Arc::new(LocalFileSystem::new_with_prefix(folder)?) })
    }

    fn path(id: &MediaId) -> ObjectPath {
        ObjectPath::from(media_path(id.as_str()))
    }

    /// Keeps some bytes; the same bytes are kept once.
    ///
    /// # Errors
    /// The object store.
    pub async fn put(&self, bytes: Vec<u8>) -> Result<MediaId, StoreError> {
        let id = MediaId::of(&bytes);
        let path = Self::path(&id);
        match self.objects.head(&path).await {
            Ok(_) => {}
            Err(object_store::Error::NotFound { .. }) => {
                self.objects.put(&path, PutPayload::from(bytes)).await?;
            }
            Err(e) => return Err(e.into()),
        }
        Ok(id)
    }

    /// The bytes of a file.
    ///
    /// # Errors
    /// No such file; the object store.
    pub async fn get(&self, id: &MediaId) -> Result<Vec<u8>, StoreError> {
        let got = self.objects.get(&Self::path(id)).await.map_err(|e| match e {
            object_store::Error::NotFound { .. } => StoreError::Missing { what: "media file" },
            e => e.into(),
        })?;
        Ok(got.bytes().await?.into())
    }
}

impl Store {
    /// Notes that a media file exists. Noting it again changes nothing.
    ///
    /// # Errors
    /// The database.
    pub fn note_media(&self, id: &MediaId, name: &str, bytes: u64) -> Result<(), StoreError> {
        let bytes = i64::try_from(bytes).unwrap_or(i64::MAX);
        diesel::insert_into(media::table)
            .values((media::hash.eq(id.as_str()), media::name.eq(name), media::bytes.eq(bytes)))
            .on_conflict_do_nothing()
            .execute(&mut self.connection()?)?;
        Ok(())
    }
}

/// The media store as the engine's library. The engine asks from blocking threads.
pub struct StoreLibrary {
    media: MediaStore,
    runtime: Handle,
}

impl StoreLibrary {
    /// A library whose reads run on `runtime`.
    pub fn new(media: MediaStore, runtime: Handle) -> Self {
        Self { media, runtime }
    }
}

impl Library for StoreLibrary {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        let no_media = || ShotError::NoMedia { file: source.file.clone() };
        if !source.media.is_sound() {
            return Err(no_media());
        }
        self.runtime.block_on(self.media.get(&source.media)).map_err(|_| no_media())
    }
}
