//! The address of the database.

/// The address with encryption by GSS switched off, unless it says otherwise. The client library would ask the Kerberos
/// library for a ticket at each connection; that one tears down its locks when a process ends, and a connection that the
/// pool opens at that moment aborts the process (seen on a busy machine). TLS and GSS for logging in are not touched.
pub(crate) fn without_gss(url: &str) -> String {
    let off = "gssencmode=disable";
    if url.contains("gssencmode") {
        return url.to_owned();
    }
    match (url.contains("://"), url.contains('?')) {
        (true, false) => format!("{url}?{off}"),
        (true, true) => format!("{url}&{off}"),
        (false, _) => format!("{url} {off}"),
    }
}

#[cfg(test)]
mod tests {
    use super::without_gss;

    #[test]
    fn gss_is_off_in_every_form_of_an_address() {
        for (url, wanted) in [
            ("postgres://a@b/c", "postgres://a@b/c?gssencmode=disable"),
            ("postgres://a@b/c?sslmode=require", "postgres://a@b/c?sslmode=require&gssencmode=disable"),
            ("host=b dbname=c", "host=b dbname=c gssencmode=disable"),
            ("host=b gssencmode=require", "host=b gssencmode=require"),
        ] {
            assert_eq!(without_gss(url), wanted);
        }
    }
}
