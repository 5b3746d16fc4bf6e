//! A review sheet: one HTML file for somebody who has no Jugata. Before and after with an edge to drag, frames side by side,
//! figures against a reference, and the steps as sentences.

use crate::document::{Element, Shot};
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use crate::look::Other;
use crate::still::Still;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use jugata_core::show::compare;
use jugata_core::{Cancel, Raster, Scale};
use jugata_exchange::{coded, jpeg_write};
use std::fmt::Write;

/// Width of the two pictures, px at most: a screen's.
const WIDE: u32 = 1600;

/// Width of a frame in the strip, px at most.
const SMALL: u32 = 320;

/// Frames in the strip.
const STRIP: i32 = 8;

/// What a sheet shows.
#[derive(Debug, Default)]
pub struct Sheet<'a> {
    /// The frame that is compared; the first if not said.
    pub frame: Option<i32>,
    /// What the result is measured against.
    pub reference: Option<&'a Other>,
    /// Pulled when nobody waits any more.
    pub cancel: Cancel,
}

/// The sheet of a shot, as HTML that needs nothing else.
///
/// # Errors
/// As [`Engine::evaluate`]; a reference of another size.
pub fn sheet(engine: &Engine, shot: &Shot, sheet: &Sheet<'_>) -> Result<String, ShotError> {
    let frame = sheet.frame.unwrap_or(shot.first_frame());
    let still = Still::of(shot, frame)?;
    let work = Work { engine, shot, sheet };
    let mut page = String::from(HEAD);
    let name = escaped(&shot.name);
    let (w, h) = (shot.display.width, shot.display.height);
    let _ = write!(page, "<title>{name}: review</title>\n<main>\n<h1>{name}</h1>\n<p>{w} × {h} px");
    if let Some(range) = shot.frames {
        let _ = write!(page, ", frame {frame} of {}–{}, {} a second", range.first, range.last, shot.rate);
    }
    page.push_str("</p>\n");
    let (before, after) = (work.jpeg(&untouched(shot), frame, WIDE)?, work.jpeg(shot, frame, WIDE)?);
    let _ = write!(
        page,
        "<figure class=\"wipe\"><img src=\"{after}\" alt=\"After all steps\"><img id=\"before\" src=\"{before}\" \
         alt=\"Before all steps\"></figure>\n<p class=\"ends\"><label for=\"edge\">Before</label> <input id=\"edge\" \
         type=\"range\" min=\"0\" max=\"100\" value=\"50\" aria-label=\"Share that is shown as it was before\"> \
         <span>After</span></p>\n"
    );
    if let Some(other) = sheet.reference {
        page.push_str(&work.figures(frame, other)?);
    }
    if let Some(range) = shot.frames.filter(|r| r.last > r.first) {
        page.push_str("<h2>Frames</h2>\n<ol class=\"strip\">\n");
        for frame in spread(range.first, range.last) {
            let picture = work.jpeg(shot, frame, SMALL)?;
            let _ =
                writeln!(page, "<li><img src=\"{picture}\" alt=\"Frame {frame}\"><span>{frame}</span></li>");
        }
        page.push_str("</ol>\n");
    }
    page.push_str("<h2>Steps</h2>\n");
    still.elements.iter().for_each(|e| steps(&mut page, e));
    page.push_str("<footer>Made with Jugata.</footer>\n</main>\n");
    page.push_str(SCRIPT);
    Ok(page)
}

struct Work<'a> {
    engine: &'a Engine,
    shot: &'a Shot,
    sheet: &'a Sheet<'a>,
}

impl Work<'_> {
    fn made(&self, shot: &Shot, frame: i32, scale: Scale) -> Result<std::sync::Arc<Raster>, ShotError> {
        let request =
            Request { frame, cancel: self.sheet.cancel.clone(), ..Request::frame(shot, Target::Shot, scale) };
        Ok(self.engine.evaluate(shot, &request)?.raster)
    }

    /// A frame as an address that holds the picture itself.
    fn jpeg(&self, shot: &Shot, frame: i32, wide: u32) -> Result<String, ShotError> {
        let made = self.made(shot, frame, Scale::at_most(shot.display, wide))?;
        let bytes = jpeg_write::write(&coded::over_black(&made)?)?;
        Ok(format!("data:image/jpeg;base64,{}", STANDARD.encode(bytes)))
    }

    fn figures(&self, frame: i32, other: &Other) -> Result<String, ShotError> {
        let request = Request {
            frame,
            cancel: self.sheet.cancel.clone(),
            ..Request::frame(self.shot, Target::Shot, Scale::FULL)
        };
        let made = self.engine.evaluate(self.shot, &request)?.raster;
        let reference = other.on(self.engine, self.shot, &request)?;
        let apart = compare::difference(&made, &reference, None)?;
        let ssim = compare::ssim(&made, &reference)?.map_or_else(|| "–".into(), |v| format!("{v:.4}"));
        let psnr = if apart.psnr.is_finite() { format!("{:.1} dB", apart.psnr) } else { "the same".into() };
        let what = match other {
            Other::File { file } => escaped(&file.name),
            Other::Target { .. } => "another state of this shot".into(),
        };
        Ok(format!(
            "<h2>Figures</h2>\n<table><caption>Against {what}, frame {frame}</caption><tr><th>PSNR</th><td>{psnr}</td></tr>\
             <tr><th>SSIM</th><td>{ssim}</td></tr><tr><th>Largest difference</th><td>{:.1} of 255</td></tr></table>\n",
            apart.largest * 255.0
        ))
    }
}

/// The shot without any step.
fn untouched(shot: &Shot) -> Shot {
    let mut shot = shot.clone();
    for step in shot.elements.iter_mut().flat_map(|e| &mut e.steps) {
        step.on = false;
    }
    // What moves a step's switch would turn it on again.
    shot.drives.retain(|d| !d.at.ends_with("/on"));
    shot
}

/// At most so many frames from the first to the last.
fn spread(first: i32, last: i32) -> impl Iterator<Item = i32> {
    let (from, span) = (i64::from(first), i64::from(last) - i64::from(first));
    let count = (span + 1).min(i64::from(STRIP));
    (0..count).map(move |i| (from + i * span / (count - 1).max(1)) as i32)
}

fn steps(page: &mut String, element: &Element) {
    let _ = writeln!(page, "<h3>{}</h3>", escaped(&element.name));
    if !element.steps.iter().any(|s| s.on) {
        page.push_str("<p>Nothing is changed.</p>\n");
        return;
    }
    page.push_str("<ol>\n");
    for step in element.steps.iter().filter(|s| s.on) {
        let _ = writeln!(page, "<li>{}</li>", escaped(&step.sentence(&element.mattes)));
    }
    page.push_str("</ol>\n");
}

/// Text that a browser shows as it is.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&#39;"),
            c if c.is_control() => {}
            c => out.push(c),
        }
    }
    out
}

/// Neutral greys around pictures, as on the Bench; nothing is fetched.
const HEAD: &str = r#"<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src data:; style-src 'unsafe-inline'; script-src 'unsafe-inline'">
<style>
body { margin: 0; background: #1e1e1e; color: #dcdcdc; font: 15px/1.5 system-ui, sans-serif; }
main { max-width: 1200px; margin: 0 auto; padding: 24px; }
h1 { font-size: 22px; margin: 0; } h2 { font-size: 17px; margin: 28px 0 8px; } h3 { font-size: 15px; margin: 12px 0 4px; }
p, footer { color: #a8a8a8; }
.wipe { position: relative; margin: 0; background: #000; }
.wipe img { display: block; width: 100%; }
.wipe #before { position: absolute; inset: 0; height: 100%; clip-path: inset(0 50% 0 0); }
.ends { display: flex; gap: 12px; align-items: center; } .ends input { flex: 1; accent-color: #63b29a; }
.strip { display: grid; grid-template-columns: repeat(auto-fill, minmax(130px, 1fr)); gap: 8px; list-style: none; padding: 0; }
.strip img { display: block; width: 100%; background: #000; } .strip span { color: #a8a8a8; font-variant-numeric: tabular-nums; }
table { border-collapse: collapse; } caption { text-align: left; color: #a8a8a8; } th { text-align: left; padding-right: 24px; font-weight: normal; }
td { font-variant-numeric: tabular-nums; text-align: right; } ol { margin: 0; padding-left: 24px; }
footer { margin-top: 32px; font-size: 13px; }
</style>
"#;

const SCRIPT: &str = r#"<script>
const edge = document.getElementById('edge'), before = document.getElementById('before')
const show = () => { before.style.clipPath = 'inset(0 ' + (100 - edge.value) + '% 0 0)' }
edge.addEventListener('input', show)
before.parentElement.addEventListener('pointermove', (e) => {
  if (e.buttons !== 1 && e.pointerType === 'mouse') return
  const box = before.getBoundingClientRect()
  edge.value = Math.max(0, Math.min(100, 100 * (e.clientX - box.left) / box.width))
  show()
})
before.parentElement.addEventListener('dragstart', (e) => e.preventDefault())
</script>
</html>
"#;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::document::{FORMAT, FrameRange, Step};
    use crate::engine::CacheSizes;
    use crate::made::{MadeKind, Pattern};
    use crate::media::Folders;
    use crate::steps::Exposure;
    use jugata_core::Window;
    use jugata_exchange::Limits;

    #[test]
    fn a_sheet_holds_all_that_it_shows_and_no_name_can_break_it() {
        let mut element =
            Element::made(1, "<b>\"Ring\"</b> & rim".into(), MadeKind::Pattern(Pattern::default()));
        element.steps = vec![Step::new(1, Exposure { stops: 1.5 }.into())];
        let shot = Shot {
            format: FORMAT,
            name: "</title><script>".into(),
            display: Window::of_size(32, 18),
            frames: Some(FrameRange { first: 1, last: 100 }),
            rate: 24.0,
            elements: vec![element],
            drives: Vec::new(),
        };
        let engine = Engine::new(Box::new(Folders::new(vec![])), Limits::default(), CacheSizes::default());
        let same = Other::Target { target: Target::Shot };
        let ask = Sheet { frame: Some(7), reference: Some(&same), ..Sheet::default() };
        let page = sheet(&engine, &shot, &ask).unwrap();
        assert!(page.contains("<h3>&lt;b&gt;&quot;Ring&quot;&lt;/b&gt; &amp; rim</h3>"));
        assert!(page.contains("<title>&lt;/title&gt;&lt;script&gt;: review</title>"));
        assert_eq!(page.matches("<script>").count(), 1);
        assert_eq!(page.matches("data:image/jpeg;base64,").count(), 2 + 8);
        assert!(page.contains("32 × 18 px, frame 7 of 1–100") && page.contains(">the same<"));
        assert!(!page.contains("http:") && !page.contains("https:"), "it needs nothing else");
        assert_eq!(spread(3, 5).collect::<Vec<_>>(), [3, 4, 5]);
        assert_eq!(spread(1, 100).last(), Some(100));
    }
}
