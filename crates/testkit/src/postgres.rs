//! A throw-away PostgreSQL cluster on loopback, from Debian's packages.

use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::{Arc, Mutex, PoisonError, Weak};

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

    /// Ends the server, as a power cut of another machine would; [`Self::go_on`] starts it again.
    pub fn go_away(&self) {
        self.script("stop");
    }

    /// Starts the server again with what it had.
    pub fn go_on(&self) {
        self.script("start");
    }

    /// Stops (`STOP`) or continues (`CONT`) every process of the server: its connections stay, and nothing answers.
    ///
    /// # Panics
    /// If the cluster is not running.
    pub fn signal(&self, name: &str) {
        let file = self.folder.path().join("cluster/postmaster.pid");
        let text = std::fs::read_to_string(file).expect("postmaster.pid");
        let first = text.lines().next().expect("a process");
        for (program, args) in [
            ("pkill", vec![format!("-{name}"), "-P".into(), first.into()]),
            ("kill", vec![format!("-{name}"), first.into()]),
        ] {
            // A server at rest may have no children.
            let _ = Command::new(program).args(args).status().expect(program);
        }
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

/// An empty database of its own, in a cluster that the tests of a program share: a cluster takes two seconds to make, a
/// database a tenth of one. What stops or kills the server needs a [`Postgres`] to itself.
pub struct Database {
    cluster: Arc<Postgres>,
    name: String,
}

/// The cluster that is shared, for as long as one of the tests that run needs it.
static SHARED: Mutex<Weak<Postgres>> = Mutex::new(Weak::new());
/// Databases that were made.
static MADE: AtomicU32 = AtomicU32::new(0);

impl Database {
    /// Makes one, and the cluster if there is none.
    ///
    /// # Panics
    /// As [`Postgres::start`].
    pub fn make() -> Self {
        let cluster = {
            let mut shared = SHARED.lock().unwrap_or_else(PoisonError::into_inner);
            shared.upgrade().unwrap_or_else(|| {
                let cluster = Arc::new(Postgres::start());
                *shared = Arc::downgrade(&cluster);
                cluster
            })
        };
        let name = format!("test{}", MADE.fetch_add(1, Ordering::Relaxed));
        let made = Command::new("psql")
            .args(["-qAt", "-c", &format!("create database {name}"), &cluster.url()])
            .stdin(Stdio::null())
            .status()
            .expect("psql");
        assert!(made.success(), "the database {name} is not made");
        Self { cluster, name }
    }

    /// Its address.
    pub fn url(&self) -> String {
        format!("postgres://jugata@127.0.0.1:{}/{}", self.cluster.port, self.name)
    }
}

fn script() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scripts/postgres")
}
