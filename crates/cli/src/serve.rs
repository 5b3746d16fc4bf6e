//! `jugata serve`.

use crate::Failure;
use clap::Args;
use jugata_server::{Config, arrivals, build, delivery, demo, jobs, open, outbox};
use jugata_shot::engine::CacheSizes;
use jugata_standin::Settings;
use jugata_store::MediaPlace;
use rocket::error::ErrorKind;
use rocket::fairing::AdHoc;
use std::path::PathBuf;

#[derive(Args)]
pub struct Serve {
    /// Address of PostgreSQL.
    #[arg(long, env = "DATABASE_URL")]
    database: String,
    /// The media store: a folder, or s3://bucket/folder (address and keys of it from the environment: AWS_ENDPOINT_URL,
    /// AWS_ACCESS_KEY_ID, AWS_SECRET_ACCESS_KEY …).
    #[arg(long, env = "JUGATA_MEDIA", default_value = "data/media")]
    media: MediaPlace,
    /// Folder of the built interface.
    #[arg(long, default_value = "web/dist")]
    web: PathBuf,
    /// Folder into which renderers deliver; it is made if it is not there.
    #[arg(long)]
    drop: Option<PathBuf>,
    /// Folder into which ranges of frames are put as they are written, if they ask for it; it is made if it is not there.
    #[arg(long)]
    out: Option<PathBuf>,
    /// Memory for decoded files, MiB.
    #[arg(long, default_value_t = 1024, value_parser = clap::value_parser!(u64).range(16..=1_048_576))]
    files_memory: u64,
    /// Memory for passes and results, MiB.
    #[arg(long, default_value_t = 1024, value_parser = clap::value_parser!(u64).range(16..=1_048_576))]
    results_memory: u64,
    /// Memory that one request may need at once beside these, MiB; a quarter of the machine's, at least 2048 and at most
    /// 8192, if not said.
    #[arg(long, value_parser = clap::value_parser!(u64).range(64..=1_048_576))]
    request_memory: Option<u64>,
    /// Port on loopback.
    #[arg(long, default_value_t = 8417)]
    port: u16,
    /// Leave frames of jobs to others (`jugata work`).
    #[arg(long)]
    no_worker: bool,
    /// Make the demo shot if there is no shot yet.
    #[arg(long)]
    demo: bool,
    /// Width of the demo picture, px; its height follows at 16:9.
    #[arg(long, default_value_t = 1280, value_parser = clap::value_parser!(u32).range(64..=4096))]
    demo_width: u32,
}

impl Serve {
    pub fn run(self) -> Result<(), Failure> {
        // Each connection is a file; where the limit stays as it is, there are fewer of them.
        if let Err(e) = rlimit::increase_nofile_limit(FILES) {
            tracing::warn!("the limit of open files stays as it is: {e}");
        }
        rocket::execute(async move {
            let mut config = Config::new(self.database, self.media, self.web, self.port);
            config.caches = CacheSizes {
                files: self.files_memory << 20,
                results: self.results_memory << 20,
                at_once: self.request_memory.unwrap_or_else(usual_request_memory) << 20,
            };
            if let Some(folder) = self.drop {
                std::fs::create_dir_all(&folder).map_err(|e| format!("{}: {e}", folder.display()))?;
                config.drop = Some(std::path::absolute(folder)?);
            }
            if let Some(folder) = self.out {
                std::fs::create_dir_all(&folder).map_err(|e| format!("{}: {e}", folder.display()))?;
                config.out = Some(std::path::absolute(folder)?);
            }
            let rooms = open(config).await?;
            if self.demo && !rooms.store.has_shots()? {
                // The orrery comes last: the newest shot is the one that opens first.
                demo::make_title(&rooms, self.demo_width).await.map_err(|e| e.sentence)?;
                println!("Rendering the demo scenes (once, about a minute) …");
                let half = self.demo_width / 2;
                let take = demo::make_take(&rooms, Settings::sized(half, half * 9 / 16, 2), demo::FRAMES)
                    .await
                    .map_err(|e| e.sentence)?;
                demo::make_drift(&rooms, take).await.map_err(|e| e.sentence)?;
                demo::make_streak(&rooms, take).await.map_err(|e| e.sentence)?;
                let size = Settings {
                    width: self.demo_width,
                    height: self.demo_width * 9 / 16,
                    ..Settings::default()
                };
                let orrery = demo::make(&rooms, size).await.map_err(|e| e.sentence)?;
                demo::make_presets(&rooms, orrery).await.map_err(|e| e.sentence)?;
            }
            if let Some(folder) = rooms.config.drop.clone() {
                rocket::tokio::spawn(delivery::watch(rooms.clone(), folder));
            }
            if let Some(folder) = rooms.config.out.clone() {
                rocket::tokio::spawn(outbox::put_out(rooms.clone(), folder));
            }
            rocket::tokio::spawn(arrivals::listen(rooms.clone()));
            if !self.no_worker {
                rocket::tokio::spawn(jobs::work_on(rooms.clone()));
            }
            match build(rooms).attach(ready()).launch().await {
                Ok(_) => Ok(()),
                // It was told to end, and did not wait for the last answers.
                Err(e) if matches!(e.kind(), ErrorKind::Shutdown(..)) => Ok(()),
                Err(e) => Err(e.to_string().into()),
            }
        })
    }
}

/// Files and connections that may be open at once.
const FILES: u64 = 16_384;

/// A quarter of the machine's memory, MiB, between 2048 and 8192.
pub fn usual_request_memory() -> u64 {
    let told = std::fs::read_to_string("/proc/meminfo").unwrap_or_default();
    let total = told
        .lines()
        .find_map(|l| l.strip_prefix("MemTotal:")?.trim().strip_suffix("kB")?.trim().parse::<u64>().ok());
    (total.unwrap_or(0) / 1024 / 4).clamp(2048, 8192)
}

/// Prints the address once the server listens: people open it, and tests wait for it.
fn ready() -> AdHoc {
    AdHoc::on_liftoff("Address", |app| {
        let port = app.config().port;
        Box::pin(async move { println!("Jugata is ready at http://127.0.0.1:{port}/") })
    })
}
