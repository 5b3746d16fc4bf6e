//! Words of the command line that stand for values.

use jugata_core::{Scale, Window};
use jugata_shot::Target;
use jugata_shot::document::FrameRange;
use jugata_shot::handoff::{Packing, With};
use jugata_shot::rocking::Rock;
use jugata_standin::Distortion;
use serde::de::DeserializeOwned;

/// `x,y,w,h` in px at the wanted scale.
pub fn window(text: &str) -> Result<Window, String> {
    let wrong = || format!("“{text}” is not a window; give x,y,width,height");
    let numbers: Vec<i64> =
        text.split(',').map(|n| n.trim().parse()).collect::<Result<_, _>>().map_err(|_| wrong())?;
    let [x, y, w, h] = numbers[..] else { return Err(wrong()) };
    let small = |v: i64| (-65_536..=65_536).contains(&v);
    if !(small(x) && small(y) && (1..=65_536).contains(&w) && (1..=65_536).contains(&h)) {
        return Err(wrong());
    }
    Ok(Window::new(x as i32, y as i32, w as u32, h as u32))
}

/// `first-last`; either may be below 0.
pub fn frames(text: &str) -> Result<FrameRange, String> {
    let wrong = || format!("“{text}” are no frames; give first-last, as 1-48");
    // The dash between the numbers is the first one that is not the first one's sign.
    let dash = text.char_indices().skip(1).find(|(_, c)| *c == '-').ok_or_else(wrong)?.0;
    let number = |text: &str| text.trim().parse::<i32>().map_err(|_| wrong());
    let range = FrameRange { first: number(&text[..dash])?, last: number(&text[dash + 1..])? };
    let possible = |v: i32| (-10_000_000..=10_000_000).contains(&v);
    if range.first > range.last || !possible(range.first) || !possible(range.last) {
        return Err(wrong());
    }
    Ok(range)
}

/// `1`, `1/2`, `1/4` … `1/64`.
pub fn scale(text: &str) -> Result<Scale, String> {
    let wrong = || format!("“{text}” is not a scale; give 1, 1/2, 1/4 … 1/64");
    let divisor: u32 = text.strip_prefix("1/").unwrap_or(text).parse().map_err(|_| wrong())?;
    if !divisor.is_power_of_two() {
        return Err(wrong());
    }
    Scale::halved(divisor.trailing_zeros() as u8).ok_or_else(wrong)
}

/// `shot`, `ELEMENT`, `ELEMENT/before`, `ELEMENT/after/STEP`, `ELEMENT/gives/STEP`, `ELEMENT/pass/PASS`, `ELEMENT/limit/STEP`,
/// `ELEMENT/matte/MATTE`, all by number; `ELEMENT/pass/PASS/placed` and `ELEMENT/matte/MATTE/placed` as they lie under the result.
pub fn target(text: &str) -> Result<Target, String> {
    let wrong = || {
        format!(
            "“{text}” is not a target; give shot, 1/untouched, 1/after/2, 1/before/2, 1/gives/2, 1/pass/3, 1/limit/2, 1/matte/1 or 1/pass/3/placed"
        )
    };
    let number = |s: &str| s.parse::<u32>().map_err(|_| wrong());
    Ok(match text.split('/').collect::<Vec<_>>()[..] {
        ["shot"] => Target::Shot,
        [element, "untouched"] => Target::Untouched { element: number(element)? },
        [element, "after", step] => Target::After { element: number(element)?, step: number(step)? },
        [element, "before", step] => Target::Before { element: number(element)?, step: number(step)? },
        [element, "gives", step] => Target::Gives { element: number(element)?, step: number(step)? },
        [element, "pass", pass] => Target::Pass { element: number(element)?, pass: number(pass)? },
        [element, "pass", pass, "placed"] => {
            Target::PlacedPass { element: number(element)?, pass: number(pass)? }
        }
        [element, "matte", matte, "placed"] => {
            Target::PlacedMatte { element: number(element)?, matte: number(matte)? }
        }
        [element, "matte", matte] => Target::Matte { element: number(element)?, matte: number(matte)? },
        [element, "limit", step] => Target::Limit { element: number(element)?, step: number(step)? },
        _ => return Err(wrong()),
    })
}

/// One of the names that documents use for something.
fn by_name<T: DeserializeOwned>(text: &str, names: &str) -> Result<T, String> {
    let name = text.replace('-', "_");
    serde_json::from_value(name.into()).map_err(|_| format!("“{text}” is none of {names}"))
}

/// How an OpenEXR file is packed.
pub fn packing(text: &str) -> Result<Packing, String> {
    by_name(text, "zip, zip-line, piz, runs and plain")
}

/// What goes into a file beside the result.
pub fn with(text: &str) -> Result<With, String> {
    by_name(text, "untouched, passes, mattes and lights")
}

/// Three numbers with commas between.
pub fn triple(text: &str) -> Result<[f32; 3], String> {
    let wrong = || format!("“{text}” is not three numbers with commas between");
    let v: Vec<f32> =
        text.split(',').map(|n| n.trim().parse()).collect::<Result<_, _>>().map_err(|_| wrong())?;
    let v: [f32; 3] = v.try_into().map_err(|_| wrong())?;
    if v.iter().all(|v| v.is_finite()) { Ok(v) } else { Err(wrong()) }
}

/// Coefficients of a lens that bends lines, with commas between; the last ones may be left out.
pub fn distortion(text: &str) -> Result<Distortion, String> {
    let wrong =
        || format!("“{text}” is not up to five coefficients with commas between: give k1,k2,k3,p1,p2");
    let v: Vec<f64> =
        text.split(',').map(|n| n.trim().parse()).collect::<Result<_, _>>().map_err(|_| wrong())?;
    if v.len() > 5 || v.iter().any(|v| !(v.is_finite() && v.abs() <= 10.0)) {
        return Err(wrong());
    }
    let at = |i: usize| v.get(i).copied().unwrap_or(0.0);
    Ok(Distortion { k: [at(0), at(1), at(2)], p: [at(3), at(4)] })
}

/// Largest move in px and phase, with a comma between.
pub fn rock(text: &str) -> Result<Rock, String> {
    let wrong = || format!("“{text}” is not a largest move in px and a place between -1 and 1: give 20,-1");
    let v: Vec<f32> =
        text.split(',').map(|n| n.trim().parse()).collect::<Result<_, _>>().map_err(|_| wrong())?;
    let [amount, phase] = v[..] else { return Err(wrong()) };
    if amount.is_finite() && phase.abs() <= 1.0 {
        Ok(Rock { amount, phase, still: None })
    } else {
        Err(wrong())
    }
}

/// An angle in degrees, at most all the way round.
pub fn turn(text: &str) -> Result<f32, String> {
    let degrees: f32 = text.parse().map_err(|_| format!("“{text}” is no number"))?;
    let within = degrees.abs() <= 360.0;
    within.then_some(degrees).ok_or_else(|| format!("{text}° is more than all the way round"))
}

/// A number above zero that is not absurd.
pub fn positive(text: &str) -> Result<f32, String> {
    let number = text.trim().parse::<f32>().ok().filter(|v| *v > 0.0 && *v <= 1e6);
    number.ok_or_else(|| format!("“{text}” is no number above 0"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_become_values() {
        assert_eq!(window("-4, 2,10,5"), Ok(Window::new(-4, 2, 10, 5)));
        assert!(window("1,2,3").is_err() && window("0,0,0,5").is_err() && window("0,0,9e9,5").is_err());
        assert_eq!(scale("1/4").unwrap().step(), 4);
        assert!(turn("-12.5") == Ok(-12.5) && turn("361").is_err() && turn("nan").is_err());
        assert!(scale("1/3").is_err() && scale("0").is_err() && scale("1/128").is_err());
        assert_eq!(target("1/after/2"), Ok(Target::After { element: 1, step: 2 }));
        assert_eq!(target("1/gives/2"), Ok(Target::Gives { element: 1, step: 2 }));
        assert!(target("1/after").unwrap_err().starts_with("“1/after” is not a target"));
        assert_eq!(triple("0.5,-1,2"), Ok([0.5, -1.0, 2.0]));
        assert!(triple("1,2,inf").is_err());
        assert_eq!(frames("1-48"), Ok(FrameRange { first: 1, last: 48 }));
        assert_eq!(frames("-8--2"), Ok(FrameRange { first: -8, last: -2 }));
        assert!(frames("7").is_err() && frames("9-2").is_err() && frames("1-99999999").is_err());
        assert_eq!(rock("20,-1"), Ok(Rock { amount: 20.0, phase: -1.0, still: None }));
        assert!(rock("20").is_err() && rock("20,1.5").is_err() && rock("nan,0").is_err());
    }
}
