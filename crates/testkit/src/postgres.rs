//! A throw-away PostgreSQL cluster on loopback, from Debian's packages.

use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// A private cluster that is stopped and deleted when dropped.
pub struct Postgres {
    folder: tempfile::TempDir,
    port: u16,
}

impl Postgres {
    /// Makes and starts a cluster on a free loopback port, by the same script as `make demo`.
    ///
    /// # Panics
    /// If the Debian packages are missing or the server does not start.
    pub fn start() -> Self {
        let folder = tempfile::Builder::new().prefix("jugata-pg-").tempdir().expect("temporary folder");
        let port = TcpListener::bind("127.0.0.1:0").and_then(|l| l.local_addr()).expect("free port").port();
        let cluster = Self { folder, port };
        cluster.script("start");
        cluster
    }

    /// Address of the cluster's own database.
    pub fn url(&self) -> String {
        format!("postgres://jugata@127.0.0.1:{}/jugata", self.port)
    }

    fn script(&self, verb: &str) {
        let status = Command::new(script())
            .arg(verb)
            .arg(self.folder.path().join("cluster"))
            .arg(self.port.to_string())
            .env("JUGATA_PG_THROWAWAY", "1")
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .status()
            .expect("scripts/postgres");
        assert!(status.success(), "scripts/postgres {verb} failed");
    }
}

impl Drop for Postgres {
    fn drop(&mut self) {
        self.script("stop");
    }
}

fn script() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scripts/postgres")
}
