//! One mapping of failures to HTTP, each one sentence.

use crate::wire::Refusal;
use jugata_exchange::ExchangeError;
use jugata_shot::ShotError;
use jugata_store::StoreError;
use rocket::http::{Method, Status};
use rocket::response::{self, Responder};
use rocket::serde::json::Json;
use rocket::{Catcher, Request, Route, catch, catchers};

/// "Client closed request": nobody waits for this answer. Not a registered code, but widely understood.
pub const NOBODY_WAITS: Status = Status { code: 499 };

/// A failure on its way to the person.
#[derive(Clone, Debug)]
pub struct Failure {
    /// HTTP status.
    pub status: Status,
    /// One sentence.
    pub sentence: String,
}

impl Failure {
    /// Nobody waits for the answer any more.
    pub fn nobody_waits() -> Self {
        Self::new(NOBODY_WAITS, "Nobody waits for this any more.")
    }

    /// A failure of the request.
    pub fn new(status: Status, sentence: impl Into<String>) -> Self {
        Self { status, sentence: sentence.into() }
    }
}

fn status_of_shot(e: &ShotError) -> Status {
    match e {
        ShotError::Missing { .. } | ShotError::NoMedia { .. } => Status::NotFound,
        ShotError::Cancelled(_) => NOBODY_WAITS,
        ShotError::Shared(e) => status_of_shot(e),
        ShotError::Media(e) => status_of_exchange(e),
        ShotError::Shape(_) => Status::InternalServerError,
        ShotError::TooLarge { .. } => Status::PayloadTooLarge,
        _ => Status::UnprocessableEntity,
    }
}

fn status_of_exchange(e: &ExchangeError) -> Status {
    match e {
        ExchangeError::Limit { .. } => Status::PayloadTooLarge,
        ExchangeError::Io(_) | ExchangeError::Unwritable { .. } => Status::InternalServerError,
        ExchangeError::NotAnImage | ExchangeError::Unsupported { .. } => Status::UnsupportedMediaType,
        _ => Status::UnprocessableEntity,
    }
}

impl From<ShotError> for Failure {
    fn from(e: ShotError) -> Self {
        Self::new(status_of_shot(&e), e.to_string())
    }
}

impl From<ExchangeError> for Failure {
    fn from(e: ExchangeError) -> Self {
        Self::new(status_of_exchange(&e), e.to_string())
    }
}

impl From<StoreError> for Failure {
    fn from(e: StoreError) -> Self {
        let status = match &e {
            StoreError::Missing { .. } => Status::NotFound,
            StoreError::Stale { .. } | StoreError::AtEnd { .. } => Status::Conflict,
            StoreError::Document(e) => status_of_shot(e),
            StoreError::Connection(_) | StoreError::Database(_) => Status::ServiceUnavailable,
            _ => Status::InternalServerError,
        };
        Self::new(status, e.to_string())
    }
}

impl<'r> Responder<'r, 'static> for Failure {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'static> {
        // What went wrong on our side is what somebody will look for in the log.
        if self.status.code >= 500 {
            tracing::error!("{} {}: {}", request.method(), request.uri().path(), self.sentence);
        }
        (self.status, Json(Refusal { error: self.sentence })).respond_to(request)
    }
}

/// Answers for failures outside the routes.
pub fn catchers() -> Vec<Catcher> {
    catchers![any]
}

/// Rank of the route that answers at every address.
const PAGE: isize = 20;

/// Whether an address has the form of a route's.
fn fits(route: &Route, path: &str) -> bool {
    let mut parts = path.split('/').skip(1);
    for wanted in route.uri.path().split('/').skip(1) {
        match parts.next() {
            _ if wanted.ends_with("..>") => return true,
            Some(part) if wanted.starts_with('<') || wanted == part => {}
            _ => return false,
        }
    }
    parts.next().is_none()
}

#[catch(default)]
fn any(status: Status, request: &Request<'_>) -> Failure {
    let path = request.uri().path();
    // Rocket takes an address that is there for another method for one that is not there.
    if status == Status::NotFound {
        let mut others: Vec<Method> = request
            .rocket()
            .routes()
            .filter(|r| r.rank < PAGE && fits(r, path.as_str()))
            .map(|r| r.method)
            .collect();
        others.sort_by_key(|m| m.as_str());
        others.dedup();
        if !others.is_empty() && !others.contains(&request.method()) {
            let names: Vec<&str> = others.iter().map(|m| m.as_str()).collect();
            let sentence = format!("{path} takes {}, not {}.", names.join(" and "), request.method());
            return Failure::new(Status::MethodNotAllowed, sentence);
        }
    }
    let sentence = match status.code {
        404 => format!("There is nothing at {path}."),
        413 => "The request is too large.".into(),
        400 | 422 => "The request could not be understood.".into(),
        _ => format!("The server answered with {status}."),
    };
    Failure::new(status, sentence)
}
