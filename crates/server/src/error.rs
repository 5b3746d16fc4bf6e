//! One mapping of failures to HTTP, each one sentence.

use crate::wire::Said;
use jugata_exchange::ExchangeError;
use jugata_shot::ShotError;
use jugata_store::StoreError;
use rocket::http::Status;
use rocket::response::{self, Responder};
use rocket::serde::json::Json;
use rocket::{Catcher, Request, catch, catchers};

/// A failure on its way to the person.
#[derive(Debug)]
pub struct Failure {
    /// HTTP status.
    pub status: Status,
    /// One sentence.
    pub sentence: String,
}

impl Failure {
    /// A failure of the request.
    pub fn new(status: Status, sentence: impl Into<String>) -> Self {
        Self { status, sentence: sentence.into() }
    }
}

/// "Client closed request": nobody waits for this answer. Not a registered code, but widely understood.
const NOBODY_WAITS: Status = Status { code: 499 };

fn status_of_shot(e: &ShotError) -> Status {
    match e {
        ShotError::Missing { .. } | ShotError::NoMedia { .. } => Status::NotFound,
        ShotError::Cancelled(_) => NOBODY_WAITS,
        ShotError::Shared(e) => status_of_shot(e),
        ShotError::Media(e) => status_of_exchange(e),
        ShotError::Shape(_) => Status::InternalServerError,
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
        (self.status, Json(Said { error: self.sentence })).respond_to(request)
    }
}

/// Answers for failures outside the routes.
pub fn catchers() -> Vec<Catcher> {
    catchers![any]
}

#[catch(default)]
fn any(status: Status, request: &Request<'_>) -> Failure {
    let sentence = match status.code {
        404 => format!("There is nothing at {}.", request.uri().path()),
        413 => "That is more than is taken at once.".into(),
        400 | 422 => "The request could not be understood.".into(),
        _ => format!("The server answered with {status}."),
    };
    Failure::new(status, sentence)
}
