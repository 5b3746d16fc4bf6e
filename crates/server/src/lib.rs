//! The HTTP room: routes by noun, previews, hand-off. It computes no pixel; it asks `shot` and `store`.
//!
//! | module | subject |
//! |---|---|
//! | [`app`] | what every route shares |
//! | [`config`] | where things are, and bounds |
//! | [`guard`] | Host and Origin, security headers |
//! | [`requests`] | a line in the log for each request |
//! | [`error`] | one mapping of failures to HTTP, each one sentence |
//! | [`desk`] | how much is worked on at once |
//! | [`work`] | work in its turn; how long the database may keep silent |
//! | [`viewers`] | the newest request of a viewer cancels its older ones |
//! | [`wire`] | what goes over the wire |
//! | [`routes`] | shots, pictures, hand-off, kinds |
//! | [`delivery`], [`troubles`] | the drop folder |
//! | [`outbox`] | the folder for hand-off |
//! | [`news`], [`arrivals`] | what pages are told of |
//! | [`followed`] | tracks that are being followed |
//! | [`jobs`] | the server's own worker |
//! | [`demo`] | the demo shot |

pub mod app;
pub mod arrivals;
pub mod config;
pub mod delivery;
pub mod demo;
pub mod desk;
pub mod error;
pub mod followed;
pub mod guard;
pub mod jobs;
pub mod news;
pub mod outbox;
pub mod requests;
pub mod routes;
pub mod troubles;
pub mod viewers;
pub mod wire;
pub mod work;

pub use app::{App, open};
pub use config::Config;

use rocket::fairing::AdHoc;
use rocket::{Build, Rocket};
use std::sync::Arc;

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
