//! Why a document could not be read, in words for people.

/// What a reader of JSON says of a value, in plain words. What it says of the text itself (a comma that is missing, and
/// where) stays as it is.
pub(crate) fn in_words(said: &str) -> String {
    if said.starts_with("EOF while parsing") {
        return "the text ends too early".into();
    }
    if let Some(name) = said.strip_prefix("missing field ") {
        return format!("{} is missing", bare(name));
    }
    for (start, what) in [("unknown field ", "is not known here"), ("unknown variant ", "is no choice here")]
    {
        if let Some((name, known)) = said.strip_prefix(start).and_then(|s| s.split_once(", ")) {
            let known = known.trim_start_matches("expected ").trim_start_matches("one of ");
            let known = if known.starts_with('`') {
                format!("; known: {}", known.replace('`', ""))
            } else {
                String::new()
            };
            return format!("{} {what}{known}", bare(name));
        }
    }
    let value = said.strip_prefix("invalid value: ").or_else(|| said.strip_prefix("invalid type: "));
    let Some((found, wanted)) = value.and_then(|v| v.split_once(", expected ")) else {
        return said.to_owned();
    };
    format!("{} is needed, and {} stands there", needed(wanted), found_in_words(found))
}

fn bare(name: &str) -> &str {
    name.trim_matches('`')
}

fn needed(wanted: &str) -> String {
    match wanted {
        "u8" | "u16" | "u32" | "u64" | "usize" => "a whole number from 0 on".into(),
        "i8" | "i16" | "i32" | "i64" => "a whole number".into(),
        "f32" | "f64" => "a number".into(),
        "a boolean" => "true or false".into(),
        "a string" => "text".into(),
        "a sequence" => "a list".into(),
        w if w.starts_with("struct ") || w.starts_with("internally tagged") || w == "a map" => {
            "an object".into()
        }
        w => match w.rsplit_once(' ') {
            Some(("an array of length" | "a tuple of size", n)) => format!("a list of {n}"),
            _ => w.to_owned(),
        },
    }
}

fn found_in_words(found: &str) -> String {
    let words = found.trim_start_matches("integer ").trim_start_matches("floating point ");
    match words {
        "null" | "unit value" => "nothing".into(),
        "map" => "an object".into(),
        "sequence" => "a list".into(),
        w => w.trim_start_matches("string ").trim_start_matches("boolean ").replace('`', ""),
    }
}

#[cfg(test)]
mod tests {
    use super::in_words;

    #[test]
    fn what_a_reader_says_is_said_plainly() {
        for (said, plain) in [
            ("missing field `media`", "media is missing"),
            ("EOF while parsing a string at line 1 column 9", "the text ends too early"),
            ("unknown field `stopz`, expected `stops`", "stopz is not known here; known: stops"),
            ("unknown field `a`, there are no fields", "a is not known here"),
            (
                "unknown variant `mul`, expected one of `add`, `multiply`",
                "mul is no choice here; known: add, multiply",
            ),
            (
                "invalid value: integer `-7`, expected u32",
                "a whole number from 0 on is needed, and -7 stands there",
            ),
            ("invalid type: string \"far\", expected f32", "a number is needed, and \"far\" stands there"),
            ("invalid type: null, expected a string", "text is needed, and nothing stands there"),
            ("invalid type: map, expected a sequence", "a list is needed, and an object stands there"),
            ("invalid type: sequence, expected struct Lamp", "an object is needed, and a list stands there"),
            ("expected `,` or `}` at line 3 column 7", "expected `,` or `}` at line 3 column 7"),
        ] {
            assert_eq!(in_words(said), plain);
        }
    }
}
