//! Host and Origin, and the headers that keep the page to itself.

use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::uri::Origin;
use rocket::http::{Header, Method};
use rocket::{Data, Request, Response};

/// Refuses requests that did not mean this server, and sets security headers on every answer.
///
/// A page on another site can send requests to loopback, by its address or by a name that resolves to it.
/// Such a request has another Host or another Origin, and is turned away before any route sees it.
pub struct Guard;

/// Where refused requests go.
const REFUSED: &str = "/api/refused";

/// Everything from this origin; pictures also from blobs the page made; no frames, no plug-ins.
const POLICY: &str = "default-src 'self'; img-src 'self' blob: data:; object-src 'none'; base-uri 'none'; \
                      form-action 'none'; frame-ancestors 'none'";

/// Whether a Host header names this machine.
fn is_loopback(host: &str) -> bool {
    let name = match host.strip_prefix('[') {
        Some(rest) => rest.split(']').next().unwrap_or(""),
        None => host.split(':').next().unwrap_or(""),
    };
    matches!(name, "127.0.0.1" | "localhost" | "::1")
}

fn is_meant_for_us(request: &Request<'_>) -> bool {
    let headers = request.headers();
    let Some(host) = headers.get_one("Host") else { return false };
    let same_origin = match headers.get_one("Origin") {
        Some(origin) => origin.strip_prefix("http://") == Some(host),
        // Browsers send Origin with every request that changes something; other programs need not.
        None => {
            headers.get_one("Sec-Fetch-Site").is_none_or(|site| matches!(site, "same-origin" | "none"))
                || request.method() == Method::Get && headers.get_one("Sec-Fetch-Mode") == Some("navigate")
        }
    };
    is_loopback(host) && same_origin
}

#[rocket::async_trait]
impl Fairing for Guard {
    fn info(&self) -> Info {
        Info { name: "Host, Origin and security headers", kind: Kind::Request | Kind::Response }
    }

    async fn on_request(&self, request: &mut Request<'_>, _: &mut Data<'_>) {
        if !is_meant_for_us(request) {
            request.set_uri(Origin::const_new(REFUSED, None));
            request.set_method(Method::Get);
        }
    }

    async fn on_response<'r>(&self, _: &'r Request<'_>, response: &mut Response<'r>) {
        for (name, value) in [
            ("Content-Security-Policy", POLICY),
            ("X-Content-Type-Options", "nosniff"),
            ("Referrer-Policy", "no-referrer"),
            ("Cross-Origin-Resource-Policy", "same-origin"),
            ("Cross-Origin-Opener-Policy", "same-origin"),
        ] {
            response.set_header(Header::new(name, value));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hosts() {
        for host in ["127.0.0.1", "127.0.0.1:8000", "localhost:1", "[::1]:80"] {
            assert!(is_loopback(host), "{host}");
        }
        for host in ["", "example.org", "127.0.0.1.example.org", "localhost.example.org:80", "[::2]"] {
            assert!(!is_loopback(host), "{host}");
        }
    }
}
