//! What a new user gets who drops the files of a foreign renderer: one element, right at first sight.
#![allow(clippy::unwrap_used)]

use jugata_core::Role;
use jugata_exchange::Limits;
use jugata_shot::inspection::{inspect, shot_on_disk};
use jugata_testkit::foreign;

fn scenes() -> impl Iterator<Item = &'static str> {
    foreign::SCENES.into_iter().chain(["filtered"])
}

#[test]
fn what_inspect_says_of_each_is_known() {
    for scene in scenes() {
        let paths: Vec<_> = foreign::files(scene).iter().map(|f| foreign::path(f)).collect();
        let said = inspect(&paths, Limits::default()).unwrap().to_string();
        insta::assert_snapshot!(format!("inspect_{scene}"), said);
    }
}

#[test]
fn the_files_of_a_scene_are_one_element_with_every_role() {
    for scene in scenes() {
        let mut paths: Vec<_> = foreign::files(scene).iter().map(|f| foreign::path(f)).collect();
        // In whichever order they come.
        for _ in 0..2 {
            let (shot, _) = shot_on_disk(&paths, Limits::default()).unwrap();
            assert_eq!(shot.elements.len(), 1, "{scene}");
            let e = &shot.elements[0];
            for role in [Role::Beauty, Role::Depth, Role::Normal, Role::Position, Role::Uv, Role::ObjectId] {
                assert_eq!(e.passes.iter().filter(|p| p.role == role).count(), 1, "{scene}: {role:?}");
            }
            assert_eq!(e.pass_of(Role::Beauty).unwrap().source.channels, ["R", "G", "B", "A"], "{scene}");
            paths.reverse();
        }
    }
}
