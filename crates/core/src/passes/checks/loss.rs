//! Data passes in lossy files.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind};
use crate::Role;

pub(super) fn check(_: &Case, pass: &Evidence) -> Vec<Finding> {
    // Light bears what such codecs lose; measures do not.
    if pass.role.averages() || pass.role == Role::Other {
        return Vec::new();
    }
    pass.lossy
        .map(|how| {
            let words = format!("It comes from a lossy file: {how}. Ask for it without loss (ZIP, PIZ).");
            Finding::new(pass, FindingKind::Lossy, 1.0, words)
        })
        .into_iter()
        .collect()
}
