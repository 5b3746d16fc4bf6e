//! Files by the hash of their bytes.

use crate::error::StoreError;
use crate::schema::media;
use crate::shots::Store;
use diesel::prelude::*;
use jugata_shot::ShotError;
use jugata_shot::document::{MediaId, Source};
use jugata_shot::media::{Library, media_path};
use object_store::aws::AmazonS3Builder;
use object_store::local::LocalFileSystem;
use object_store::path::Path as ObjectPath;
use object_store::prefix::PrefixStore;
use object_store::{ObjectStore, ObjectStoreExt, PutPayload};
use std::fs::File;
use std::path::{Path, PathBuf};
use std::str::FromStr;
use std::sync::Arc;
use tokio::runtime::Handle;

/// Where media files are kept: chosen by one setting.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum MediaPlace {
    /// A folder.
    Folder(PathBuf),
    /// A bucket of a store that speaks S3, and the folder in it. Address, region and keys are taken from the environment, under
    /// the names that such stores are usually told by: `AWS_ENDPOINT_URL`, `AWS_REGION`, `AWS_ACCESS_KEY_ID`,
    /// `AWS_SECRET_ACCESS_KEY`, `AWS_ALLOW_HTTP`.
    Bucket {
        /// Its name.
        bucket: String,
        /// The folder in it; empty for none.
        folder: String,
    },
}

impl FromStr for MediaPlace {
    type Err = String;

    /// A folder, or `s3://bucket/folder`.
    fn from_str(text: &str) -> Result<Self, String> {
        let Some(place) = text.strip_prefix("s3://") else {
            return match text.split_once("://") {
                Some((kind, _)) => {
                    Err(format!("media are not kept in {kind}://; name a folder, or s3://bucket/folder"))
                }
                None => Ok(Self::Folder(text.into())),
            };
        };
        let (bucket, folder) = place.split_once('/').unwrap_or((place, ""));
        if bucket.is_empty() {
            return Err("s3:// is followed by the name of a bucket".into());
        }
        Ok(Self::Bucket { bucket: bucket.into(), folder: folder.trim_matches('/').into() })
    }
}

impl From<PathBuf> for MediaPlace {
    fn from(folder: PathBuf) -> Self {
        Self::Folder(folder)
    }
}

/// Files in an object store, addressed by BLAKE3 hash and never altered.
#[derive(Clone, Debug)]
pub struct MediaStore {
    objects: Arc<dyn ObjectStore>,
    waiting: PathBuf,
    /// Where it is a folder.
    folder: Option<PathBuf>,
    /// Says that the folder for what arrives is in use, as long as this program lives.
    _lock: Option<Arc<File>>,
}

impl MediaStore {
    /// The store of a place.
    ///
    /// # Errors
    /// A folder that cannot be made; a bucket whose address or keys are not said.
    pub fn open(place: &MediaPlace) -> Result<Self, StoreError> {
        let (bucket, folder) = match place {
            MediaPlace::Folder(folder) => return Self::local(folder),
            MediaPlace::Bucket { bucket, folder } => (bucket, folder),
        };
        Self::bucket(AmazonS3Builder::from_env().with_bucket_name(bucket), folder)
    }

    /// The store in a folder of a bucket. An object is there whole or not at all, as S3 has it.
    ///
    /// # Errors
    /// An address or keys that are not said.
    pub fn bucket(told: AmazonS3Builder, folder: &str) -> Result<Self, StoreError> {
        settle_tls();
        Self::over(Arc::new(PrefixStore::new(told.build()?, folder)))
    }

    /// The store over any object store.
    ///
    /// # Errors
    /// A folder for what arrives that cannot be made.
    pub fn over(objects: Arc<dyn ObjectStore>) -> Result<Self, StoreError> {
        let within = std::env::temp_dir();
        remove_of_the_dead(&within);
        let waiting = within.join(format!("{OF_A_PROGRAM}{}", std::process::id()));
        let lock = locked(&waiting)?;
        Ok(Self { objects, waiting, folder: None, _lock: Some(Arc::new(lock)) })
    }

    /// A store in a local folder, which is made if it is not there. The object store writes to a temporary
    /// name, flushes it to the disk and renames it, so a file that was acknowledged is there, whole, after a power cut
    /// too.
    ///
    /// # Errors
    /// A folder that cannot be made.
    pub fn local(folder: &Path) -> Result<Self, StoreError> {
        let waiting = folder.join(WAITING);
        std::fs::create_dir_all(&waiting)?;
        let objects = LocalFileSystem::new_with_prefix(folder)?.with_fsync(true);
        Ok(Self { objects: Arc::new(objects), waiting, folder: Some(folder.to_owned()), _lock: None })
    }

    /// Takes away what a kill has left half written. For whoever alone writes to the store, before it begins.
    ///
    /// # Errors
    /// A folder that cannot be made.
    pub fn take_over(&self) -> Result<(), StoreError> {
        // A bucket's belongs to this program alone, and is new.
        if let Some(folder) = &self.folder {
            let _ = std::fs::remove_dir_all(&self.waiting);
            std::fs::create_dir_all(&self.waiting)?;
            remove_leftovers(folder, 0);
        }
        Ok(())
    }

    /// Folder for files that arrive, until they are looked at.
    pub fn waiting(&self) -> &Path {
        &self.waiting
    }

    fn path(id: &MediaId) -> ObjectPath {
        ObjectPath::from(media_path(id.as_str()))
    }

    /// Keeps some bytes; the same bytes are kept once. What lies there damaged is written again.
    ///
    /// # Errors
    /// The object store.
    pub async fn put(&self, bytes: Vec<u8>) -> Result<MediaId, StoreError> {
        let id = MediaId::of(&bytes);
        let path = Self::path(&id);
        if !self.holds(&path, &id, bytes.len() as u64).await? {
            self.objects.put(&path, PutPayload::from(bytes)).await?;
        }
        Ok(id)
    }

    /// Whether a file is there with the bytes that its name says.
    async fn holds(&self, path: &ObjectPath, id: &MediaId, size: u64) -> Result<bool, StoreError> {
        match self.objects.head(path).await {
            Ok(there) if there.size != size => Ok(false),
            Ok(_) => {
                let bytes = self.objects.get(path).await?.bytes().await?;
                Ok(MediaId::of(&bytes) == *id)
            }
            Err(object_store::Error::NotFound { .. }) => Ok(false),
            Err(e) => Err(e.into()),
        }
    }

    /// Whether a file is there and has the size that it ought to have.
    ///
    /// # Errors
    /// The object store.
    pub async fn has(&self, id: &MediaId, bytes: i64) -> Result<bool, StoreError> {
        match self.objects.head(&Self::path(id)).await {
            Ok(there) => Ok(i64::try_from(there.size) == Ok(bytes)),
            Err(object_store::Error::NotFound { .. }) => Ok(false),
            Err(e) => Err(e.into()),
        }
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

    /// Takes a file away for good.
    ///
    /// # Errors
    /// The object store; a file that is not there is no failure.
    pub async fn remove(&self, id: &MediaId) -> Result<(), StoreError> {
        match self.objects.delete(&Self::path(id)).await {
            Ok(()) | Err(object_store::Error::NotFound { .. }) => Ok(()),
            Err(e) => Err(e.into()),
        }
    }
}

/// Says once for the process by which provider HTTPS is spoken: no client can be made before that.
pub fn settle_tls() {
    // An error says that it was said before.
    let _ = rustls::crypto::ring::default_provider().install_default();
}

/// Folder inside the store for files that arrive.
const WAITING: &str = "arriving";

/// Name, without the number of the program, of the folder for files that arrive on their way to a bucket.
const OF_A_PROGRAM: &str = "jugata-arriving-";

/// File in it that a living program holds a lock on.
const LOCK: &str = "lock";

/// Makes such a folder and holds its lock. Another program that begins may take it for one of the dead just before that.
fn locked(folder: &Path) -> std::io::Result<File> {
    loop {
        std::fs::create_dir_all(folder)?;
        let lock = File::create(folder.join(LOCK))?;
        // Another store of this program may hold it: the folder is in use either way.
        lock.try_lock_shared()?;
        if folder.join(LOCK).exists() {
            return Ok(lock);
        }
    }
}

/// Takes away such folders of programs that were killed: nobody holds their locks.
fn remove_of_the_dead(within: &Path) {
    let Ok(entries) = std::fs::read_dir(within) else { return };
    for entry in entries.flatten().filter(|e| e.file_name().to_string_lossy().starts_with(OF_A_PROGRAM)) {
        let held = File::open(entry.path().join(LOCK)).map(|lock| lock.try_lock().is_err());
        // A folder whose lock cannot be opened is about to be used, or somebody else's.
        if matches!(held, Ok(false)) {
            let _ = std::fs::remove_dir_all(entry.path());
        }
    }
}

/// Folders inside folders that files lie in.
const DEPTH: usize = 4;

/// Takes away what the object store was writing when it was killed: files named `hash#number`.
fn remove_leftovers(folder: &Path, depth: usize) {
    let Ok(entries) = std::fs::read_dir(folder) else { return };
    for entry in entries.flatten() {
        let Ok(kind) = entry.file_type() else { continue };
        if kind.is_dir() && depth < DEPTH {
            remove_leftovers(&entry.path(), depth + 1);
        }
        let name = entry.file_name();
        let unfinished = name
            .to_string_lossy()
            .split_once('#')
            .is_some_and(|(hash, number)| hash.len() == 64 && number.bytes().all(|b| b.is_ascii_digit()));
        if kind.is_file() && unfinished {
            // What cannot be taken away now is met again at the next start.
            let _ = std::fs::remove_file(entry.path());
        }
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_the_dead_left_goes_and_what_is_in_use_stays() {
        let temp = tempfile::tempdir().unwrap();
        let folder = |name: &str| {
            let at = temp.path().join(format!("{OF_A_PROGRAM}{name}"));
            std::fs::create_dir(&at).unwrap();
            std::fs::write(at.join("half a file"), b"half").unwrap();
            at
        };
        let (dead, living, new) = (folder("1"), folder("2"), folder("3"));
        std::fs::write(dead.join(LOCK), b"").unwrap();
        let lock = File::create(living.join(LOCK)).unwrap();
        lock.try_lock_shared().unwrap();
        let other = temp.path().join("something else");
        std::fs::create_dir(&other).unwrap();
        remove_of_the_dead(temp.path());
        assert_eq!([&dead, &living, &new, &other].map(|f| f.exists()), [false, true, true, true]);
    }
}
