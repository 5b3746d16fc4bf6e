//! `jugata media`.

use crate::Failure;
use clap::{Args, Subcommand};
use jugata_store::{MediaPlace, MediaStore, Store};
use rocket::tokio::runtime::Runtime;
use std::time::Duration;

#[derive(Args)]
pub struct OnMedia {
    /// Address of PostgreSQL.
    #[arg(long, env = "DATABASE_URL")]
    database: String,
    /// The media store: a folder or s3://bucket/folder.
    #[arg(long, env = "JUGATA_MEDIA", default_value = "data/media")]
    media: MediaPlace,
    #[command(subcommand)]
    verb: Verb,
}

#[derive(Subcommand)]
enum Verb {
    /// Say how much disk the media take, and how much of it nothing names.
    Usage,
    /// Delete media that no revision and no preset names.
    Collect {
        /// Also remove deleted shots, with their history, for good.
        #[arg(long)]
        deleted: bool,
        /// Leave alone what was brought in or deleted within so many days.
        #[arg(long, default_value_t = 1, value_parser = clap::value_parser!(u32).range(0..=36_500))]
        older_than: u32,
    },
}

fn mebibytes(bytes: i64) -> String {
    format!("{:.1} MiB", bytes as f64 / f64::from(1 << 20))
}

impl OnMedia {
    pub fn run(self) -> Result<(), Failure> {
        let store = Store::connect(&self.database)?;
        match self.verb {
            Verb::Usage => {
                let u = store.usage()?;
                println!("{} files, {}", u.files, mebibytes(u.bytes));
                println!("{} of them, {}, are named by nothing", u.unused, mebibytes(u.unused_bytes));
            }
            Verb::Collect { deleted, older_than } => {
                let age = Duration::from_secs(u64::from(older_than) * 86_400);
                let before = (std::time::SystemTime::now() - age).into();
                if deleted {
                    println!("{} deleted shots removed", store.forget_deleted(before)?);
                }
                let (media, runtime) = (MediaStore::open(&self.media)?, Runtime::new()?);
                let (mut files, mut bytes) = (0, 0);
                for (id, size) in store.unused_media(before)? {
                    // The file first: a note without a file is met again, a file without a note never.
                    runtime.block_on(media.remove(&id))?;
                    store.forget_media(&id)?;
                    (files, bytes) = (files + 1, bytes + size);
                }
                println!("{files} files deleted, {}", mebibytes(bytes));
            }
        }
        Ok(())
    }
}
