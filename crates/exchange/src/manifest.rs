//! Names of hashed IDs, as the header lists them (Cryptomatte specification 1.2.0, "Metadata").

use crate::file::Part;

/// Most names that are kept.
const MOST: usize = 20_000;

/// Whether a layer holds ranks of hashed IDs: the header gives its name without the two digits of the rank.
pub fn is_listed(part: &Part, layer: &str) -> bool {
    prefixes(part).any(|p| layer.strip_prefix(p).is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit())))
}

fn prefixes(part: &Part) -> impl Iterator<Item = &str> {
    part.attributes
        .iter()
        .filter(|a| a.name.starts_with("cryptomatte/") && a.name.ends_with("/name"))
        .map(|a| a.value.as_str())
}

/// Names of the IDs of a layer, sorted; empty where the header has none. The manifest is JSON: name → eight
/// hexadecimal digits.
pub fn names(part: &Part, layer: &str) -> Vec<(u32, String)> {
    let listed = part.attributes.iter().find(|a| {
        a.name.starts_with("cryptomatte/") && a.name.ends_with("/name") && layer.starts_with(a.value.as_str())
    });
    let Some(key) = listed.and_then(|a| a.name.strip_suffix("/name")) else { return Vec::new() };
    let manifest = part.attributes.iter().find(|a| a.name.strip_prefix(key) == Some("/manifest"));
    let Some(table) = manifest.and_then(|a| serde_json::from_str::<serde_json::Map<_, _>>(&a.value).ok())
    else {
        return Vec::new();
    };
    let mut list: Vec<(u32, String)> = table
        .into_iter()
        .take(MOST)
        .filter_map(|(name, id)| Some((u32::from_str_radix(id.as_str()?, 16).ok()?, name)))
        .collect();
    list.sort_by(|a, b| a.1.cmp(&b.1));
    list
}
