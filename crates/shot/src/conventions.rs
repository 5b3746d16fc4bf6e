//! The conventions of each role as a list of fields, from which Intake makes its controls.

use jugata_core::Role;
use jugata_core::colour::ColourSpace;
use jugata_core::passes::convention::{
    AlphaState, Axis, Curve, DepthCoding, DepthMeasure, MapHolds, MotionTime, MotionUnit, MotionY,
    NormalCoding, OWN_AXES, Space, UvOrigin, Wrap,
};
use serde::Serialize;
use ts_rs::TS;

/// One choice of a field.
#[derive(Clone, Debug, Serialize, TS)]
pub struct FieldChoice {
    /// The value, as the document holds it.
    #[ts(type = "unknown")]
    pub value: serde_json::Value,
    /// In words.
    pub label: String,
}

/// A field of a convention.
#[derive(Clone, Debug, Serialize, TS)]
pub struct Field {
    /// Its name in the document.
    pub key: &'static str,
    /// In words.
    pub label: &'static str,
    /// The roles that it concerns.
    pub roles: Vec<Role>,
    /// What can be chosen; a number where nothing can.
    pub choices: Vec<FieldChoice>,
    /// Unit of a number.
    pub unit: &'static str,
    /// Another field and its values on which this one depends.
    #[ts(type = "[string, unknown[]] | null")]
    pub only_with: Option<(&'static str, Vec<serde_json::Value>)>,
}

fn value(v: impl Serialize) -> serde_json::Value {
    serde_json::to_value(v).unwrap_or_default()
}

fn choices<T: Serialize + Copy>(all: &[(T, &str)]) -> Vec<FieldChoice> {
    all.iter().map(|(v, label)| FieldChoice { value: value(v), label: (*label).to_owned() }).collect()
}

fn field(key: &'static str, label: &'static str, roles: &[Role], choices: Vec<FieldChoice>) -> Field {
    Field { key, label, roles: roles.to_vec(), choices, unit: "", only_with: None }
}

/// Every field, in the order in which they are shown.
pub fn fields() -> Vec<Field> {
    use Role::{Albedo, Beauty, Clay, Depth, Motion, Normal, Position, StMap, Uv};
    let spaces = [ColourSpace::Linear, ColourSpace::Srgb, ColourSpace::Rec709, ColourSpace::Acescg];
    let colour = choices(&spaces.map(|s| (s, s.label())));
    let of_range = [
        DepthCoding::NearWhite,
        DepthCoding::NearBlack,
        DepthCoding::NormalisedInverse,
        DepthCoding::ZBuffer,
        DepthCoding::Logarithmic,
    ];
    let ranged = Some(("depth_coding", of_range.map(value).to_vec()));
    let distances = Some(("depth_coding", [DepthCoding::Units, DepthCoding::Inverse].map(value).to_vec()));
    let number =
        |key, label, only_with| Field { unit: "units", only_with, ..field(key, label, &[Depth], Vec::new()) };
    vec![
        field("colour", "Colour", &[Beauty, Albedo, Clay], colour),
        field("alpha", "Alpha", &[Beauty], choices(AlphaState::ALL)),
        field("depth_coding", "Stored as", &[Depth], choices(DepthCoding::ALL)),
        number("near", "Near", ranged.clone()),
        number("far", "Far", ranged),
        number("unit", "A unit is", distances),
        field("background", "Nothing at", &[Depth, Position], Vec::new()),
        field("depth", "Measured", &[Depth], choices(DepthMeasure::ALL)),
        field("normal", "Stored as", &[Normal], choices(NormalCoding::ALL)),
        field("space", "Space", &[Normal, Position], choices(Space::ALL)),
        field("axes", "Right, up, out", &[Normal, Position], axes()),
        field("uv_origin", "Origin", &[Uv, StMap], choices(UvOrigin::ALL)),
        field("map_holds", "Holds", &[StMap], choices(MapHolds::ALL)),
        field("uv_wrap", "Beyond 0..1", &[Uv], choices(Wrap::ALL)),
        field("motion_unit", "Unit", &[Motion], choices(MotionUnit::ALL)),
        field("motion_coding", "Stored as", &[Motion], choices(NormalCoding::ALL)),
        field("motion_time", "Leads", &[Motion], choices(MotionTime::ALL)),
        field("motion_y", "Second axis", &[Motion], choices(MotionY::ALL)),
        field("curve", "Curve", &[Depth, Normal, Uv, Motion, StMap], choices(Curve::ALL)),
    ]
}

/// The orders and signs that are met; a remedy may set any other.
fn axes() -> Vec<FieldChoice> {
    use Axis::{MinusX, MinusY, MinusZ, X, Y, Z};
    let all = [
        OWN_AXES,
        [MinusX, Y, Z],
        [X, MinusY, Z],
        [X, Y, MinusZ],
        [X, MinusY, MinusZ],
        [MinusX, MinusY, Z],
        [X, Z, Y],
        [X, Z, MinusY],
        [X, MinusZ, Y],
        [Y, X, Z],
        [Z, Y, X],
    ];
    all.map(|a| FieldChoice { value: value(a), label: a.map(Axis::label).join(" ") }).to_vec()
}

#[cfg(test)]
mod tests {
    use super::*;
    use jugata_core::Convention;

    #[test]
    fn every_field_is_of_the_document_and_every_choice_fits() {
        let default = value(Convention::default());
        for f in fields() {
            let old = default.get(f.key);
            assert!(old.is_some() && !f.roles.is_empty(), "{}", f.key);
            if let Some((other, _)) = &f.only_with {
                assert!(default.get(*other).is_some());
            }
            for c in &f.choices {
                let mut document = default.clone();
                document[f.key] = c.value.clone();
                assert!(serde_json::from_value::<Convention>(document).is_ok(), "{} {}", f.key, c.label);
            }
            let known = f.choices.is_empty() || f.choices.iter().any(|c| Some(&c.value) == old);
            assert!(known, "{} offers its default", f.key);
        }
    }
}
