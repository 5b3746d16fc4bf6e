//! `jugata work`.

use crate::Failure;
use clap::Args;
use jugata_core::Cancel;
use jugata_exchange::Limits;
use jugata_shot::Engine;
use jugata_shot::engine::CacheSizes;
use jugata_store::jobs::LEASE;
use jugata_store::media::StoreLibrary;
use jugata_store::{MediaPlace, MediaStore, Outcome, Store, Taken, Worker};
use rocket::tokio::runtime::Runtime;
use rocket::tokio::signal::unix::{SignalKind, signal};
use std::sync::Arc;
use std::time::Duration;

#[derive(Args)]
pub struct Work {
    /// Address of PostgreSQL.
    #[arg(long, env = "DATABASE_URL")]
    database: String,
    /// The media store: the same as the server's, a folder that both see or s3://bucket/folder.
    #[arg(long, env = "JUGATA_MEDIA", default_value = "data/media")]
    media: MediaPlace,
    /// End when nothing is left to do, instead of waiting for more.
    #[arg(long)]
    until_done: bool,
    /// How long others leave a frame alone that this one has taken and says nothing more of, seconds.
    #[arg(long, default_value_t = LEASE.as_secs(), value_parser = clap::value_parser!(u64).range(1..=3600))]
    lease: u64,
    /// Memory for decoded files, MiB.
    #[arg(long, default_value_t = 1024, value_parser = clap::value_parser!(u64).range(16..=1_048_576))]
    files_memory: u64,
    /// Memory for passes and results, MiB.
    #[arg(long, default_value_t = 1024, value_parser = clap::value_parser!(u64).range(16..=1_048_576))]
    results_memory: u64,
}

impl Work {
    pub fn run(self) -> Result<(), Failure> {
        let runtime = Runtime::new()?;
        let store = Store::connect(&self.database)?;
        let media = MediaStore::open(&self.media)?;
        let sizes = CacheSizes {
            files: self.files_memory << 20,
            results: self.results_memory << 20,
            at_once: crate::serve::usual_request_memory() << 20,
        };
        let library = StoreLibrary::new(media.clone(), runtime.handle().clone());
        let engine = Engine::new(Box::new(library), Limits::default(), sizes);
        let mut worker = Worker::new(store, media, Arc::new(engine), runtime.handle().clone());
        worker.lease = Duration::from_secs(self.lease);
        let end = Cancel::new();
        let told_to_end = end.clone();
        runtime.spawn(async move {
            wait_for_end().await;
            // What is being made is given back at once, for others.
            told_to_end.cancel();
        });
        println!("Working as {}.", worker.name);
        worker.run(&end, !self.until_done, told)?;
        Ok(())
    }
}

/// Until somebody asks the process to end.
async fn wait_for_end() {
    let kinds = [SignalKind::interrupt(), SignalKind::terminate()];
    let mut both = kinds.map(signal).into_iter().flatten();
    match (both.next(), both.next()) {
        (Some(mut a), Some(mut b)) => {
            rocket::tokio::select! {
                _ = a.recv() => {}
                _ = b.recv() => {}
            }
        }
        // Without signals the system ends the process, and its frame becomes free by itself.
        _ => std::future::pending().await,
    }
}

fn told(taken: &Taken, outcome: &Outcome) {
    let name = taken.wish.file_name(taken.frame).unwrap_or_default();
    match outcome {
        Outcome::Made => println!("{name}"),
        Outcome::There => println!("{name} was there already"),
        Outcome::Failed(sentence) => eprintln!("{name}: {sentence}"),
        Outcome::Left => eprintln!("{name} was left for another time"),
    }
}
