//! A store that speaks S3, on loopback, for as long as it lives.

use hyper_util::rt::{TokioExecutor, TokioIo};
use hyper_util::server::conn::auto::Builder;
use s3s::auth::SimpleAuth;
use s3s::service::S3ServiceBuilder;
use s3s_fs::FileSystem;
use tokio::net::TcpListener;
use tokio::runtime::Runtime;

/// The server with one bucket.
pub struct Bucket {
    /// Where it listens.
    pub address: String,
    _folder: tempfile::TempDir,
    _runtime: Runtime,
}

impl Bucket {
    /// Name of its one bucket.
    pub const NAME: &str = "plates";
    /// Who may reach it, and by which secret.
    pub const KEYS: [&str; 2] = ["observatory", "not-a-real-secret"];

    /// Starts one with nothing in it.
    ///
    /// # Panics
    /// It cannot be started.
    pub fn start() -> Self {
        let (runtime, folder) = (Runtime::new().unwrap(), tempfile::tempdir().unwrap());
        std::fs::create_dir(folder.path().join(Self::NAME)).unwrap();
        let mut service = S3ServiceBuilder::new(FileSystem::new(folder.path()).unwrap());
        service.set_auth(SimpleAuth::from_single(Self::KEYS[0], Self::KEYS[1]));
        let service = service.build();
        let listener = runtime.block_on(TcpListener::bind("127.0.0.1:0")).unwrap();
        let address = format!("http://{}", listener.local_addr().unwrap());
        runtime.spawn(async move {
            while let Ok((socket, _)) = listener.accept().await {
                let service = service.clone();
                tokio::spawn(async move {
                    let http = Builder::new(TokioExecutor::new());
                    let _ = http.serve_connection(TokioIo::new(socket), service).await;
                });
            }
        });
        Self { address, _folder: folder, _runtime: runtime }
    }

    /// What a program that is to reach it finds in its environment.
    pub fn environment(&self) -> [(&'static str, &str); 5] {
        [
            ("AWS_ENDPOINT_URL", &self.address),
            ("AWS_ALLOW_HTTP", "true"),
            ("AWS_REGION", "us-east-1"),
            ("AWS_ACCESS_KEY_ID", Self::KEYS[0]),
            ("AWS_SECRET_ACCESS_KEY", Self::KEYS[1]),
        ]
    }
}
