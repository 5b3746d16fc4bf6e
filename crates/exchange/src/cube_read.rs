//! Colour tables from `.cube` text (Cube LUT Specification 1.0).

use crate::error::{Damage, ExchangeError};
use jugata_core::colour::lut::{Lut, LutShape};

/// Longest file that is read: a cube of 256 points a side with long numbers is a little under 1 GiB; what is
/// in use has 65 or fewer.
const MOST_BYTES: usize = 256 << 20;

fn damaged(line: usize, what: &str) -> ExchangeError {
    ExchangeError::Table { what: format!("line {line} of the colour table: {what}") }
}

/// What the keywords say so far.
struct Head {
    shape: Option<(LutShape, usize)>,
    domain: [[f32; 3]; 2],
}

/// Reads a `.cube` file: `LUT_1D_SIZE` or `LUT_3D_SIZE`, `DOMAIN_MIN`, `DOMAIN_MAX`, comments, a title, and
/// one row of three numbers an entry.
///
/// # Errors
/// One sentence that names the line.
pub fn read(bytes: &[u8]) -> Result<Lut, ExchangeError> {
    if bytes.len() > MOST_BYTES {
        let (found, most) = (bytes.len() as u64, MOST_BYTES as u64);
        return Err(ExchangeError::Limit { what: "the colour table", found, most });
    }
    let not_one = ExchangeError::from(Damage::NoTable);
    let Ok(text) = std::str::from_utf8(bytes) else { return Err(not_one) };
    let mut head = Head { shape: None, domain: [[0.0; 3], [1.0; 3]] };
    let mut table = Vec::new();
    for (number, line) in (1..).zip(text.trim_start_matches('\u{feff}').lines()) {
        let line = line.trim();
        if line.is_empty() || line.starts_with('#') {
            continue;
        }
        if line.starts_with(|c: char| c.is_ascii_alphabetic()) && !line.starts_with("nan") {
            keyword(&mut head, line).map_err(|what| damaged(number, what))?;
            continue;
        }
        let Some((shape, size)) = head.shape else { return Err(not_one) };
        let most = Lut::entries(shape, size).unwrap_or(0);
        if table.len() == most {
            return Err(damaged(number, "there are more rows than the table's size says"));
        }
        table.push(triple(line).ok_or_else(|| damaged(number, "three numbers were expected"))?);
    }
    let Some((shape, size)) = head.shape else { return Err(not_one) };
    Lut::new(shape, size, head.domain, table).map_err(|e| ExchangeError::Table { what: e.to_string() })
}

fn keyword(head: &mut Head, line: &str) -> Result<(), &'static str> {
    let (word, rest) = line.split_once(char::is_whitespace).unwrap_or((line, ""));
    let mut size = |shape| {
        let size: usize = rest.trim().parse().map_err(|_| "a size was expected")?;
        Lut::entries(shape, size).ok_or("a table of this size is not read")?;
        if head.shape.replace((shape, size)).is_some() {
            return Err("a second size; two tables in one file are not read");
        }
        Ok(())
    };
    match word {
        "LUT_1D_SIZE" => size(LutShape::Curves)?,
        "LUT_3D_SIZE" => size(LutShape::Cube)?,
        "DOMAIN_MIN" => head.domain[0] = triple(rest).ok_or("three numbers were expected")?,
        "DOMAIN_MAX" => head.domain[1] = triple(rest).ok_or("three numbers were expected")?,
        // The title changes no value.
        "TITLE" => {}
        _ => return Err("an unknown word"),
    }
    Ok(())
}

fn triple(text: &str) -> Option<[f32; 3]> {
    let mut numbers = text.split_whitespace().map(str::parse::<f32>);
    let mut next = || numbers.next()?.ok();
    let found = [next()?, next()?, next()?];
    numbers.next().is_none().then_some(found)
}

#[cfg(test)]
mod tests {
    use super::*;

    const CURVES: &str =
        "# a comment\nTITLE \"half\"\n\nLUT_1D_SIZE 2\r\nDOMAIN_MAX 2 2 2\n0 0 0\n1 .5 1e-1\n";

    #[test]
    fn curves_with_comments_title_and_domain_are_read() {
        let lut = read(CURVES.as_bytes()).unwrap();
        assert_eq!(lut.apply([1.0, 2.0, 2.0]), [0.5, 0.5, 0.1]);
    }

    #[test]
    fn what_is_wrong_is_told_with_its_line() {
        let said = |text: &str| read(text.as_bytes()).unwrap_err().to_string();
        assert_eq!(said("hello"), "The file is damaged: line 1 of the colour table: an unknown word.");
        assert_eq!(said("0 0 0"), "The file is not a colour table in .cube text; export it again as .cube.");
        assert_eq!(said(""), "The file is not a colour table in .cube text; export it again as .cube.");
        assert!(said("LUT_3D_SIZE 999").contains("a table of this size is not read"));
        assert!(said("LUT_3D_SIZE 2\nLUT_1D_SIZE 2").contains("line 2 of the colour table: a second size"));
        assert!(said("LUT_1D_SIZE 2\n0 0").contains("line 2 of the colour table: three numbers"));
        assert!(said("LUT_1D_SIZE 2\n0 0 0").contains("1 entries and should have 2"));
        assert!(said("LUT_1D_SIZE 2\n0 0 0\n1 1 1\n2 2 2").contains("more rows"));
        assert!(said("LUT_1D_SIZE 2\n0 0 0\nnan 1 1").contains("not possible"));
        assert!(read(&[0xff, 0xfe, 0]).is_err());
    }
}
