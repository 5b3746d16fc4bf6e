//! `scripts/demo` and `scripts/postgres`: one server for one folder, and nothing left behind or taken from others.
#![allow(clippy::unwrap_used)]

use std::io::{Read, Write};
use std::net::{TcpListener, TcpStream};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};

fn scripts(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scripts").join(name)
}

fn free_port() -> u16 {
    TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port()
}

fn until(what: &str, is: impl Fn() -> bool) {
    let start = Instant::now();
    while !is() {
        assert!(start.elapsed() < Duration::from_secs(60), "{what}");
        std::thread::sleep(Duration::from_millis(50));
    }
}

fn listens(port: u16) -> bool {
    TcpStream::connect(("127.0.0.1", port)).is_ok()
}

struct Demo {
    folder: tempfile::TempDir,
    ports: [u16; 2],
}

impl Demo {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        // The program that is tested, with a demo picture that is made at once.
        let program = folder.path().join("small");
        let line = format!("#!/bin/sh\nexec '{}' \"$@\" --demo-width 64\n", env!("CARGO_BIN_EXE_jugata"));
        std::fs::write(&program, line).unwrap();
        std::fs::set_permissions(&program, std::fs::Permissions::from_mode(0o755)).unwrap();
        Self { folder, ports: [free_port(), free_port()] }
    }

    fn command(&self) -> Command {
        let mut c = Command::new(scripts("demo"));
        c.env("JUGATA_DATA", self.folder.path().join("data"))
            .env("JUGATA_PORT", self.ports[0].to_string())
            .env("JUGATA_PG_PORT", self.ports[1].to_string())
            .env("JUGATA_PROGRAM", self.folder.path().join("small"))
            .env("JUGATA_PG_THROWAWAY", "1")
            .env_remove("DATABASE_URL")
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped());
        c
    }

    fn answers(&self) -> bool {
        let url = format!("http://127.0.0.1:{}/api/shots", self.ports[0]);
        ureq::get(url).call().is_ok_and(|mut a| a.body_mut().read_to_string().is_ok_and(|t| t.contains("id")))
    }
}

fn end(mut child: Child) {
    Command::new("kill").args(["-TERM", &child.id().to_string()]).status().unwrap();
    child.wait().unwrap();
}

fn words(o: &Output) -> String {
    String::from_utf8_lossy(&o.stderr).into_owned()
}

#[test]
fn a_second_start_says_where_the_first_is_and_a_signal_ends_all_of_it() {
    let demo = Demo::new();
    let first = demo.command().spawn().unwrap();
    until("it answers", || demo.answers());
    let second = demo.command().output().unwrap();
    let at = format!("http://127.0.0.1:{}/", demo.ports[0]);
    assert!(!second.status.success() && words(&second).contains("runs already"), "{}", words(&second));
    assert!(words(&second).contains(&at), "{}", words(&second));
    assert!(demo.answers(), "the first one has lost nothing");
    end(first);
    until("server and database have ended", || !demo.ports.iter().any(|p| listens(*p)));

    // A database that somebody else has started stays.
    let cluster = demo.folder.path().join("data/postgres");
    let postgres = |verb: &str| {
        let port = demo.ports[1].to_string();
        let mut c = Command::new(scripts("postgres"));
        c.arg(verb).arg(&cluster).arg(port).env("JUGATA_PG_THROWAWAY", "1").output().unwrap()
    };
    assert_eq!(postgres("start").stdout, b"started\n");
    assert_eq!(postgres("start").stdout, b"running\n");
    let again = demo.command().spawn().unwrap();
    until("it answers again", || demo.answers());
    end(again);
    until("the server has ended", || !listens(demo.ports[0]));
    assert!(listens(demo.ports[1]), "the database goes on");
    postgres("stop");

    // A note that a crash has left, with the number of a process that lives and is no database.
    std::fs::write(cluster.join("postmaster.pid"), format!("{}\n", std::process::id())).unwrap();
    assert_eq!(postgres("start").stdout, b"started\n");
    postgres("stop");

    // A port that another program has.
    let taken = TcpListener::bind(("127.0.0.1", demo.ports[0])).unwrap();
    let refused = demo.command().output().unwrap();
    assert!(words(&refused).contains("is taken by another program"), "{}", words(&refused));
    drop(taken);
}

#[test]
fn hundreds_of_half_open_connections_keep_nobody_out() {
    let demo = Demo::new();
    // What shells of many machines allow: fewer files than there will be connections.
    let program = demo.folder.path().join("small");
    let line = std::fs::read_to_string(&program).unwrap().replacen("exec", "ulimit -Sn 256\nexec", 1);
    std::fs::write(&program, line).unwrap();
    let server = demo.command().spawn().unwrap();
    until("it answers", || demo.answers());
    let half: Vec<TcpStream> = (0..400)
        .map(|_| {
            let mut c = TcpStream::connect(("127.0.0.1", demo.ports[0])).unwrap();
            c.write_all(b"GET /api/shots HTTP/1.1\r\n").unwrap();
            c
        })
        .collect();
    let start = Instant::now();
    assert!(demo.answers());
    assert!(start.elapsed() < Duration::from_secs(5), "{:?}", start.elapsed());
    drop(half);
    end(server);
}

#[test]
fn a_server_that_ends_by_itself_ends_the_script_with_its_code() {
    let demo = Demo::new();
    std::fs::write(demo.folder.path().join("small"), "#!/bin/sh\necho no >&2\nexit 7\n").unwrap();
    let mut child = demo.command().spawn().unwrap();
    let code = child.wait().unwrap().code();
    let mut said = String::new();
    child.stderr.take().unwrap().read_to_string(&mut said).unwrap();
    assert_eq!((code, said.trim()), (Some(7), "no"));
    assert!(!listens(demo.ports[1]), "the database has ended");
}
