//! What the program tells about its work, on standard error, apart from its answers.

use std::io::{IsTerminal, stderr};
use tracing_subscriber::EnvFilter;

/// Which lines are written where `--verbose` does not say so, in the words of `tracing`: `warn`, or
/// `info,jugata_server=debug`.
const SETTING: &str = "JUGATA_LOG";

/// Starts to write lines: those of `JUGATA_LOG`, else of `usual`; with `verbose` also what decoders said.
pub fn start(usual: &str, verbose: bool) {
    let set = std::env::var(SETTING).ok().and_then(|v| EnvFilter::try_new(v).ok());
    let own =
        "warn,jugata=debug,jugata_exchange=debug,jugata_shot=debug,jugata_store=debug,jugata_server=debug";
    let filter = if verbose { EnvFilter::new(own) } else { set.unwrap_or_else(|| EnvFilter::new(usual)) };
    // A second start in one process leaves the first as it is.
    let _ = tracing_subscriber::fmt()
        .with_env_filter(filter)
        .with_writer(stderr)
        .with_ansi(stderr().is_terminal())
        .with_target(false)
        .try_init();
}
