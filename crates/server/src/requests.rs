//! A line in the log for every request.

use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::Status;
use rocket::{Data, Request, Response};
use std::time::Instant;

/// Logs each request once it has its answer: what the server failed at as an error, everything else by the way.
pub struct Requests;

#[rocket::async_trait]
impl Fairing for Requests {
    fn info(&self) -> Info {
        Info { name: "A line for each request", kind: Kind::Request | Kind::Response }
    }

    async fn on_request(&self, request: &mut Request<'_>, _: &mut Data<'_>) {
        request.local_cache(Instant::now);
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        let took = request.local_cache(Instant::now).elapsed().as_millis();
        let (method, path) = (request.method(), request.uri().path());
        let status: Status = response.status();
        if status.code >= 500 {
            tracing::error!("{method} {path}: {} after {took} ms", status.code);
        } else {
            tracing::info!("{method} {path}: {} after {took} ms", status.code);
        }
    }
}
