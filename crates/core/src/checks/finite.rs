//! Samples that are no numbers: NaN, and infinity where it is no distance.

use super::{Case, Evidence, Finding, FindingKind, percent};
use crate::Role;
use crate::repair::{Repair, is_missing};

pub(super) fn check(_: &Case, pass: &Evidence) -> Vec<Finding> {
    // Fill, where it was asked for, has been applied to what is seen here.
    let stored = &pass.stored;
    let area = stored.window().area();
    let missing = |i: usize| (0..stored.channels()).any(|c| is_missing(pass.role, stored.plane(c)[i]));
    let count = (0..area).filter(|&i| missing(i)).count();
    if count == 0 {
        return Vec::new();
    }
    let share = count as f64 / area as f64;
    let effect = match pass.role {
        Role::Depth => "They are taken for nothing, as far away",
        Role::Beauty | Role::Albedo | Role::Clay | Role::Shadow | Role::Alpha => "They are shown black",
        _ => "They are taken for no sample",
    };
    vec![
        Finding::new(
            pass,
            FindingKind::NotFinite,
            1.0,
            format!("{count} samples are missing or no numbers. {effect}."),
        )
        .costs(format!("{} of the pass", percent(share)))
        .repair("Fill from around", Repair::Fill)
        .at(pass, |i| i < area && missing(i)),
    ]
}
