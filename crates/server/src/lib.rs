//! The HTTP room: routes by noun, previews, hand-off. It computes no pixel; it asks `shot` and `store`.
//!
//! | module | subject |
//! |---|---|
//! | [`config`] | where things are, and bounds |
//! | [`guard`] | Host and Origin, security headers |
//! | [`requests`] | a line in the log for each request |
//! | [`error`] | one mapping of failures to HTTP, each one sentence |
//! | [`desk`] | how much is worked on at once, and how long the database may keep silent |
//! | [`viewers`] | the newest request of a viewer cancels its older ones |
//! | [`wire`] | what goes over the wire |
//! | [`routes`] | shots, pictures, hand-off, kinds |
//! | [`delivery`] | the drop folder |
//! | [`jobs`] | the server's own worker |
//! | [`demo`] | the demo shot |

pub mod config;
pub mod delivery;
pub mod demo;
pub mod desk;
pub mod error;
pub mod guard;
pub mod jobs;
pub mod news;
pub mod requests;
pub mod routes;
pub mod viewers;
pub mod wire;

pub use config::Config;

use jugata_shot::Engine;
use jugata_store::media::StoreLibrary;
use jugata_store::{MediaStore, Store, StoreError};
use rocket::fairing::AdHoc;
use rocket::tokio::sync::Notify;
use rocket::{Build, Rocket};
use std::sync::{Arc, Mutex};

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
    pub viewers: viewers::Viewers,
    /// What is being worked on.
    pub desk: desk::Desk,
    /// Tells pages of shots that change because files arrive.
    pub news: news::News,
    /// What keeps files of the drop folder from coming in, for now.
    pub troubles: Mutex<delivery::Troubles>,
    /// Tracks that are being followed.
    pub followed: routes::tracks::Followed,
    /// Wakes the server's own worker.
    pub jobs: Notify,
    /// Bounds.
    pub config: Config,
}

/// Opens the rooms: connects to the database, migrates, opens the media store. Call inside a Tokio runtime.
///
/// # Errors
/// No database, a failed migration, a folder that cannot be made.
pub async fn open(config: Config) -> Result<Arc<App>, StoreError> {
    let url = config.database.clone();
    let store = rocket::tokio::task::spawn_blocking(move || Store::connect(&url))
        .await
        .map_err(|e| StoreError::Connection(e.to_string()))??;
    let media = MediaStore::local(&config.media)?;
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
        desk: desk::Desk::default(),
        news: Default::default(),
        troubles: Mutex::default(),
        followed: Default::default(),
        jobs: Notify::new(),
        config,
    }))
}

/// The application on top of open rooms.
pub fn build(rooms: Arc<App>) -> Rocket<Build> {
    let figment = rocket::Config::figment()
        .merge(("address", "127.0.0.1"))
        .merge(("port", rooms.config.port))
        .merge(("log_level", "off"))
        .merge(("ident", "Jugata"))
        .merge(("cli_colors", false))
        .merge(("limits.json", rooms.config.json_bytes))
        .merge(("shutdown.ctrlc", true))
        .merge(("shutdown.grace", 2))
        .merge(("shutdown.mercy", 1));
    let ending = rooms.clone();
    rocket::custom(figment)
        .attach(AdHoc::on_shutdown("Stop what is worked on", move |_| {
            Box::pin(async move { ending.desk.stop_all() })
        }))
        .manage(rooms)
        .attach(requests::Requests)
        .attach(guard::Guard)
        .mount("/", routes::all())
        .register("/", error::catchers())
}
