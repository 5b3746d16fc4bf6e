//! What arrives at other servers on the same database, looked for and told to the pages of this one.

use crate::app::App;
use crate::wire;
use crate::work::ask;
use rocket::tokio::time::{Duration, sleep};
use std::sync::Arc;

/// How often other servers' arrivals are looked for.
const LOOK: Duration = Duration::from_secs(1);

/// How far back they are looked for, seconds: a transaction may take its time between its clock and its end.
const BACK: f64 = 30.0;

/// Tells pages of what arrives at other servers, for as long as the server runs.
pub async fn listen(rooms: Arc<App>) {
    loop {
        // Nothing is asked for while no page is open. A page that opens loads what has arrived by then.
        if rooms.news.is_heard() {
            match ask(&rooms, |s| s.arrivals(BACK)).await {
                Ok(arrived) => {
                    for one in arrived {
                        rooms.news.tell(wire::News {
                            shot: one.shot,
                            revision: one.revision,
                            words: one.label,
                        });
                    }
                }
                // The database is away; whoever needs it says so.
                Err(e) => tracing::debug!("no news of other servers: {}", e.sentence),
            }
        }
        sleep(LOOK).await;
    }
}
