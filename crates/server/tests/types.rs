//! The web's types come from Rust: this writes them (`make types`) or checks that they are current.
#![allow(clippy::unwrap_used)]

use jugata_server::wire;
use jugata_shot::conventions::Field;
use jugata_shot::engine::Finishing;
use jugata_shot::extracts::ExtractInfo;
use jugata_shot::handoff::FileForm;
use jugata_shot::limit::MatteInfo;
use jugata_shot::look::Look;
use jugata_shot::made::MadeInfo;
use jugata_shot::steps::KindInfo;
use std::collections::BTreeMap;
use ts_rs::{Config, TS, TypeVisitor};

#[derive(Default)]
struct Declarations {
    config: Config,
    list: BTreeMap<String, String>,
}

impl TypeVisitor for Declarations {
    fn visit<T: TS + 'static + ?Sized>(&mut self) {
        let name = T::ident(&self.config);
        // Types of the language itself have no file of their own.
        if T::output_path().is_none() || self.list.contains_key(&name) {
            return;
        }
        let docs = T::docs().unwrap_or_default();
        let declaration = format!("{docs}export {}", T::decl(&self.config));
        self.list.insert(name, declaration);
        T::visit_dependencies(self);
    }
}

fn types() -> String {
    let mut d = Declarations::default();
    d.visit::<wire::Refusal>();
    d.visit::<wire::ShotSummary>();
    d.visit::<wire::ShotState>();
    d.visit::<wire::RevisionSummary>();
    d.visit::<wire::Arrange>();
    d.visit::<wire::BringBack>();
    d.visit::<wire::MediaUsage>();
    d.visit::<wire::Edit>();
    d.visit::<wire::Walk>();
    d.visit::<Look>();
    d.visit::<wire::Preview>();
    d.visit::<wire::AskNames>();
    d.visit::<wire::AskPixels>();
    d.visit::<wire::Probe>();
    d.visit::<jugata_core::show::histogram::Histogram>();
    d.visit::<wire::PlaceLamp>();
    d.visit::<wire::Placed>();
    d.visit::<wire::PresetSummary>();
    d.visit::<wire::SavePreset>();
    d.visit::<wire::ApplyPreset>();
    d.visit::<jugata_shot::preset::Applied>();
    d.visit::<jugata_shot::preset::Preset>();
    d.visit::<wire::AskLight>();
    d.visit::<wire::AskShape>();
    d.visit::<wire::AskTold>();
    d.visit::<wire::AskCourse>();
    d.visit::<wire::AskLaid>();
    d.visit::<jugata_shot::laying::LaidOut>();
    d.visit::<jugata_shot::laying::LaidPlace>();
    d.visit::<wire::Flat>();
    d.visit::<jugata_shot::telling::Told>();
    d.visit::<wire::LightFound>();
    d.visit::<Finishing>();
    d.visit::<wire::BroughtIn>();
    d.visit::<wire::Compare>();
    d.visit::<wire::Figures>();
    d.visit::<wire::Arrived>();
    d.visit::<jugata_shot::engine::Memory>();
    d.visit::<wire::News>();
    d.visit::<wire::Delivery>();
    d.visit::<wire::Outbox>();
    d.visit::<wire::AskFollow>();
    d.visit::<wire::Following>();
    d.visit::<jugata_shot::tracks::following::TrackSeen>();
    d.visit::<wire::AskJob>();
    d.visit::<wire::ChangeJob>();
    d.visit::<wire::Job>();
    d.visit::<wire::FrameOfJob>();
    d.visit::<wire::Files>();
    d.visit::<wire::MoreFiles>();
    d.visit::<wire::TakeRemedies>();
    d.visit::<wire::MovePasses>();
    d.visit::<wire::SceneCamera>();
    d.visit::<wire::FindingSaid>();
    d.visit::<wire::PassFacts>();
    d.visit::<Field>();
    d.visit::<KindInfo>();
    d.visit::<ExtractInfo>();
    d.visit::<MadeInfo>();
    d.visit::<MatteInfo>();
    d.visit::<FileForm>();
    let head = "// Made from the Rust types by `make types`; do not edit.\n\nimport type { ObjectSchema } from './schema'\n";
    let body: Vec<String> = d.list.into_values().collect();
    format!("{head}\n{}\n", body.join("\n\n"))
}

#[test]
fn the_types_of_the_web_are_those_of_rust() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/src/api/types.ts");
    if std::env::var_os("JUGATA_UPDATE").is_some() {
        std::fs::write(path, types()).unwrap();
        return;
    }
    assert_eq!(std::fs::read_to_string(path).unwrap(), types(), "run `make types`");
}
