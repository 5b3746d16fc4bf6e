//! What a drag feels like in the browser, and how evenly frames play: a shot of 1920×1080 in a window of 1920×1080, in Pair and in Single. Pointer
//! moves come at the screen's own pace; for each, the time until a picture of that value or a newer one is drawn, with
//! everything in between: JSON, engine, view, PNG, decoding, drawing. Server and browser share the machine. A report of
//! percentiles rather than criterion's statistics. `cargo bench -p jugata-e2e --bench drag`.
#![allow(missing_docs, clippy::unwrap_used)]

use jugata_e2e::Stage;
use serde_json::Value;
use std::time::Duration;

/// Notes when each request for the picture pane is sent, and tells on drawing which moves it answers.
const WATCH: &str = r"
const fetched = new WeakMap(), drawn = new WeakMap();
window.moves = [];
window.ages = [];
window.trips = [];
const ask = window.fetch.bind(window);
window.fetch = async (to, how) => {
  const body = String(how?.body ?? '');
  const mine = String(to).includes('/api/preview') && /-picture.{0,3}$/.test(JSON.parse(body).look.viewer ?? '');
  const info = mine ? { sent: performance.now(), moves: window.moves.length } : null;
  const answer = await ask(to, how);
  if (info) {
    const bytes = answer.arrayBuffer.bind(answer);
    answer.arrayBuffer = async () => { const b = await bytes(); fetched.set(b, info); return b; };
  }
  return answer;
};
const decode = window.createImageBitmap.bind(window);
window.createImageBitmap = async (from, ...rest) => {
  const bitmap = await decode(from, ...rest);
  const info = fetched.get(from.data?.buffer);
  if (info) drawn.set(bitmap, info);
  return bitmap;
};
let told = 0;
const draw = CanvasRenderingContext2D.prototype.drawImage;
CanvasRenderingContext2D.prototype.drawImage = function (...all) {
  draw.apply(this, all);
  const info = drawn.get(all[0]);
  if (!info || info.seen) return;
  info.seen = true;
  const now = performance.now();
  window.trips.push(now - info.sent);
  for (; told < info.moves; told += 1) window.ages.push(now - window.moves[told]);
};
// Pointers that a script makes up cannot be captured.
Element.prototype.setPointerCapture = () => undefined;
return null";

/// Moves what is held round a small circle, once for each frame of the screen.
fn moving(css: &str, moves: u32) -> String {
    format!(
        "const e = document.querySelector('{css}');
        const box = e.getBoundingClientRect();
        const at = (i) => ({{ bubbles: true, button: 0, buttons: 1, pointerId: 7, clientX: box.x + box.width / 2 + 40 * Math.sin(i / 9), clientY: box.y + box.height / 2 + 30 - 30 * Math.cos(i / 9) }});
        e.dispatchEvent(new PointerEvent('pointerdown', at(0)));
        for (let i = 1; i <= {moves}; i += 1) {{
          await new Promise(requestAnimationFrame);
          window.moves.push(performance.now());
          e.dispatchEvent(new PointerEvent('pointermove', at(i)));
        }}
        await new Promise((r) => setTimeout(r, 1500));
        e.dispatchEvent(new PointerEvent('pointerup', at(0)));
        return {{ ages: window.ages.splice(0), trips: window.trips.splice(0) }}"
    )
}

fn report(what: &str, measured: &Value) {
    let times = |name: &str| {
        let mut t: Vec<f64> = measured[name].as_array().unwrap().iter().filter_map(Value::as_f64).collect();
        t.sort_by(f64::total_cmp);
        t
    };
    let (ages, trips) = (times("ages"), times("trips"));
    let at = |t: &[f64], q: f64| t.get(((t.len() as f64 - 1.0) * q) as usize).copied().unwrap_or(f64::NAN);
    println!(
        "{what}: {} moves answered by {} pictures; a move until it is seen: p50 {:.0}, p95 {:.0} ms; one request: p50 {:.0}, p95 {:.0} ms",
        ages.len(),
        trips.len(),
        at(&ages, 0.5),
        at(&ages, 0.95),
        at(&trips, 0.5),
        at(&trips, 0.95)
    );
}

#[tokio::main]
async fn main() {
    let s = Stage::start(1920, 1).await;
    s.browser.set_window_rect(0, 0, 1920, 1080).await.unwrap();
    let seen = [("1", "Pair"), ("2", "Single")];
    s.go("/").await;
    s.see("[data-handle=lamp]").await;
    s.rest().await;
    s.script(WATCH).await;
    for (key, name) in seen {
        s.browser.action_chain().send_keys(key).perform().await.unwrap();
        s.rest().await;
        measure(&s, "[data-pane=picture] [data-handle=lamp]", &format!("{name}, a lamp")).await;
    }
    s.add_change("Refocus").await;
    for (key, name) in seen {
        s.browser.action_chain().send_keys(key).perform().await.unwrap();
        s.rest().await;
        let field = "[data-column=Does] input.figures";
        measure(&s, field, &format!("{name}, a lamp and Refocus, of which its depth is dragged")).await;
    }
    take(&s).await;
    s.end().await;
}

/// Frames of the take.
const FRAMES: usize = 48;

/// A take of 1920×1080 in a window of 1280×800, seen at half its size: played from what is kept, then a value is dragged while
/// pictures of other frames are made ahead.
async fn take(s: &Stage) {
    s.browser.set_window_rect(0, 0, 1280, 800).await.unwrap();
    let files: Vec<_> = (1..=FRAMES)
        .map(|frame| {
            let (w, h) = (1920, 1080);
            let px = (0..w * h).flat_map(|i| [(i % w + 20 * frame) as u8, (i / w) as u8, (i * 7 / 5) as u8]);
            let png =
                jugata_exchange::png_write::screen(w as u32, h as u32, &px.collect::<Vec<_>>()).unwrap();
            let file = s.folder.path().join(format!("take.{frame:04}.png"));
            std::fs::write(&file, png).unwrap();
            file
        })
        .collect();
    s.open_frames(&files).await;
    s.browser.action_chain().send_keys("2").perform().await.unwrap();
    s.add_change("Exposure").await;
    s.rest().await;
    s.script(WATCH).await;
    s.see(&format!("[data-kept='{FRAMES}']")).await;
    println!("playing: {}", s.browser.execute(PLAY, vec![]).await.unwrap().json());
    let field = "[data-column=Does] input.figures";
    measure(s, field, "Single, a take whose frames are all there, exposure").await;
    // Another value, whose frames are not there: the drag begins while they are made.
    for moves in [20, 180] {
        s.type_number("Exposure (stops)", &format!("0.{moves}")).await;
        // A field that has the focus is typed into, and not dragged.
        s.script("document.activeElement?.blur()").await;
        tokio::time::sleep(Duration::from_millis(900)).await;
        let measured = s.browser.execute(&moving(field, moves), vec![]).await.unwrap().json().clone();
        if moves > 20 {
            report("Single, a take whose frames are being made, exposure", &measured);
        }
        s.rest().await;
    }
}

/// Plays for five seconds, and says how many frames were drawn, how far apart, and whether one was left out.
const PLAY: &str = r"
const frames = [];
const ruler = document.querySelector('[data-frame]');
const seen = new MutationObserver(() => frames.push([performance.now(), Number(ruler.dataset.frame)]));
seen.observe(ruler, { attributes: true, attributeFilter: ['data-frame'] });
const press = () => document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'l', bubbles: true }));
press();
await new Promise((r) => setTimeout(r, 5000));
press();
seen.disconnect();
const last = Number(document.querySelector('[data-slider=frame] [role=slider]').getAttribute('aria-valuemax'));
const gaps = frames.slice(1).map(([t], i) => t - frames[i][0]).sort((a, b) => a - b);
const left = frames.slice(1).filter(([, f], i) => f !== (frames[i][1] % last) + 1).length;
return { frames: frames.length, left_out: left, gap_p50_ms: gaps[gaps.length >> 1], gap_p95_ms: gaps[Math.floor(gaps.length * 0.95)], gap_most_ms: gaps.at(-1), late: gaps.filter((g) => g > 1.5 * 1000 / 24).length }";

async fn measure(s: &Stage, css: &str, what: &str) {
    // The first drag warms the caches.
    for moves in [20, 180] {
        s.see(css).await;
        let measured = s.browser.execute(&moving(css, moves), vec![]).await.unwrap().json().clone();
        if moves > 20 {
            report(what, &measured);
        }
        tokio::time::sleep(Duration::from_millis(300)).await;
        s.rest().await;
    }
}
