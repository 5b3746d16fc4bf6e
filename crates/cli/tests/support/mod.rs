//! A running `jugata serve`, as a process of its own.
#![allow(clippy::unwrap_used, clippy::expect_used, dead_code)]

use std::ffi::OsStr;
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

/// The built command.
pub fn jugata() -> Command {
    Command::new(env!("CARGO_BIN_EXE_jugata"))
}

/// A server process; killed when dropped.
pub struct Server {
    child: Child,
    pub url: String,
}

impl Server {
    /// Starts a server with a small demo shot on a free port and waits for its address.
    pub fn start(database: &str, folder: &Path, width: u32) -> Self {
        Self::start_with(database, folder, width, &[])
    }

    /// The same, with more arguments.
    pub fn start_with(database: &str, folder: &Path, width: u32, more: &[&OsStr]) -> Self {
        let mut child = jugata()
            .args(["serve", "--demo", "--port", "0", "--database", database])
            .args(["--demo-width", &width.to_string()])
            .args(["--media".as_ref(), folder.join("media").as_os_str()])
            .args(more)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let lines = BufReader::new(child.stdout.take().unwrap()).lines();
        let url = lines
            .map_while(Result::ok)
            .find_map(|l| l.strip_prefix("Jugata is ready at ").map(|u| u.trim_end_matches('/').to_owned()))
            .expect("the server says its address");
        Self { child, url }
    }

    /// Ends the process without any warning.
    pub fn kill(mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }

    pub fn get(&self, path: &str) -> serde_json::Value {
        ureq::get(format!("{}{path}", self.url)).call().unwrap().body_mut().read_json().unwrap()
    }

    pub fn bytes(&self, path: &str) -> Vec<u8> {
        let mut answer = ureq::get(format!("{}{path}", self.url)).call().unwrap();
        answer.body_mut().with_config().limit(1 << 30).read_to_vec().unwrap()
    }

    pub fn post(&self, path: &str, body: &serde_json::Value) -> Result<serde_json::Value, ureq::Error> {
        ureq::post(format!("{}{path}", self.url)).send_json(body)?.body_mut().read_json()
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
