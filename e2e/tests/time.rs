//! Time: a value is keyed on frames, its course seen and changed, another follows it; what moves is blurred.
#![allow(clippy::unwrap_used)]

use jugata_core::Role;
use jugata_e2e::Stage;
use jugata_standin::{Settings, export, render};
use std::path::PathBuf;
use thirtyfour::Key;

async fn next_frame(s: &Stage, frame: i32) {
    s.click("[aria-label='Next frame']").await;
    s.see(&format!("[data-frame='{frame}']")).await;
}

/// The mark of a field of the chosen step.
fn mark(field: &str) -> String {
    format!("[data-key][data-at$='/does/{field}']")
}

async fn marked(s: &Stage, field: &str, state: &str) {
    let js = format!("document.querySelector(\"{}\")?.dataset.key === '{state}'", mark(field));
    s.until(&format!("the mark is {state}"), &js).await;
}

async fn shows(s: &Stage, label: &str, value: &str) {
    let js = format!("document.querySelector(\"input[aria-label^='{label}']\")?.value === '{value}'");
    s.until(&format!("{label} is {value}"), &js).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_value_is_keyed_its_course_changed_and_another_follows_it() {
    let s = Stage::start(320, 1).await;
    s.open_take(4, 8, 480).await;
    s.add_change("By distance").await;
    s.rest().await;
    // A key where it stands, and one by setting the value on another frame.
    marked(&s, "exposure", "none").await;
    s.click(&mark("exposure")).await;
    marked(&s, "exposure", "key").await;
    next_frame(&s, 2).await;
    next_frame(&s, 3).await;
    marked(&s, "exposure", "driven").await;
    s.type_number("Exposure (stops)", "1").await;
    marked(&s, "exposure", "key").await;
    s.rest().await;
    let bright = s.pixels().await;
    s.click("[aria-label='Frame before']").await;
    shows(&s, "Exposure", "0.00").await;
    s.rest().await;
    s.until(
        "the sentence is that of the frame",
        "!document.querySelector('[data-step]').textContent.includes('exposure')",
    )
    .await;
    s.rest().await;
    assert_ne!(s.pixels().await, bright);
    s.look("time_keyed").await;
    // Its course: three frames rise, the last holds. Straight on, and the key at 3 moved to 4.
    s.words("Time").await.click().await.unwrap();
    s.until("the course is there", "document.querySelector('[data-course]')?.dataset.course === '4'").await;
    s.look("time_course").await;
    s.click("[data-ruler-key='3']").await;
    s.see("[data-frame='3']").await;
    s.type_number("Frame", "4").await;
    s.see("[data-frame='4']").await;
    s.until("the key has moved", "document.querySelector('[data-point=\"4\"]')").await;
    s.words("Time").await.click().await.unwrap();
    s.click("[data-ruler-key='1']").await;
    next_frame(&s, 2).await;
    shows(&s, "Exposure", "-0.33").await;

    // Another follows it, one stop higher; what it follows may be taken away again.
    s.add_change("By distance").await;
    s.rest().await;
    s.click(&mark("exposure")).await;
    marked(&s, "exposure", "key").await;
    s.words("Time").await.click().await.unwrap();
    s.choose("follows", "elements/1/steps/1/does/exposure").await;
    s.type_number("Plus", "1").await;
    s.rest().await;
    s.look("time_follows").await;
    s.words("Time").await.click().await.unwrap();
    shows(&s, "Exposure", "0.67").await;
    marked(&s, "exposure", "driven").await;
    // A reload changes nothing of it, and undo takes it back.
    s.browser.refresh().await.unwrap();
    s.see("[data-frame]").await;
    s.until("what moves is there", "document.querySelectorAll('[data-step]').length === 2").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_choice_holds_between_its_keys_and_an_angle_of_light_follows_a_lamp() {
    let s = Stage::start(320, 1).await;
    s.open_take(4, 8, 480).await;
    s.add_change("By distance").await;
    s.rest().await;
    // A key of the blend where it stands, and one by choosing another on another frame.
    let mark = "[data-key][data-at$='/joins/blend']";
    s.click(mark).await;
    s.see(&format!("{mark}[data-key='key']")).await;
    next_frame(&s, 2).await;
    next_frame(&s, 3).await;
    s.choose("blend", "screen").await;
    s.see(&format!("{mark}[data-key='key']")).await;
    s.click("[aria-label='Frame before']").await;
    s.see(&format!("{mark}[data-key='driven']")).await;
    s.until(
        "it is normal until the key",
        "document.querySelector('[data-select=blend]')?.textContent.includes('Normal')",
    )
    .await;
    s.words("Time").await.click().await.unwrap();
    let stretches =
        "[...document.querySelectorAll('[data-stretch]')].map((e) => e.dataset.stretch).join(' ')";
    s.until("its course is two stretches", &format!("{stretches} === 'normal screen'")).await;
    s.look("time_words").await;
    s.words("Time").await.click().await.unwrap();

    s.add_change("Relight").await;
    s.rest().await;
    s.add_change("Emboss").await;
    s.rest().await;
    s.choose("from-lamp", "elements/1/steps/2/does/lamps/1/toward").await;
    shows(&s, "Light from", "39").await;
    s.rest().await;
    s.look("time_follows_lamp").await;

    // What is put somewhere follows a lamp that could be seen: not the one behind the camera.
    s.add_change("Relight").await;
    s.rest().await;
    s.script("[...document.querySelectorAll('[aria-label=Deck] button')].find((b) => b.textContent === 'Point').click()").await;
    s.type_number("Place x (units)", "1.5").await;
    s.rest().await;
    s.add_change("Place").await;
    s.rest().await;
    s.choose("moved-lamp", "elements/1/steps/4/does/lamps/1/position").await;
    let moved = "Number(document.querySelector(\"input[aria-label^='Move →']\")?.value)";
    s.until("it lies to the right, where the lamp is seen", &format!("{moved} > 40 && {moved} < 240")).await;
    s.look("time_on_a_lamp").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn frames_play_over_and_over_and_a_key_is_set_from_the_keyboard() {
    let s = Stage::start(320, 1).await;
    s.open_take(4, 8, 480).await;
    s.add_change("By distance").await;
    s.rest().await;
    // The pointer over a field, and one press.
    let field = s.see("[data-field=exposure] input").await;
    s.browser.action_chain().move_to_element_center(&field).perform().await.unwrap();
    s.browser.action_chain().send_keys("k").perform().await.unwrap();
    marked(&s, "exposure", "key").await;
    s.script(
        "window.went = []; new MutationObserver((all) => all.forEach((m) => m.attributeName === 'data-frame' && window.went.push(m.target.dataset.frame))).observe(document.body, { subtree: true, attributes: true })",
    )
    .await;
    s.words("Play").await.click().await.unwrap();
    s.until("they have played twice", "window.went.length >= 9").await;
    s.look("time_plays").await;
    s.words("Stop").await.click().await.unwrap();
    let went = s.script("return window.went.slice(0, 8).join(' ')").await;
    assert_eq!(went, "2 3 4 1 2 3 4 1", "none is left out");
    s.rest().await;
    // What was worked out is kept, by what it is: a change that is taken back asks for no picture again.
    s.see("[data-kept='4']").await;
    s.type_number("Exposure (stops)", "1").await;
    s.see("[data-kept='4']").await;
    s.rest().await;
    s.undo_by_key(false).await;
    s.until("only the first key is left", "document.querySelectorAll('[data-ruler-key]').length === 1").await;
    s.rest().await;
    s.see("[data-kept='4']").await;
    let asked = "performance.getEntriesByType('resource').filter((e) => e.name.includes(encodeURIComponent('{\"kind\":\"shot\"}'))).length";
    s.script(&format!("window.went.length = 0; window.asked = {asked}")).await;
    s.click("[data-pane=picture]").await;
    s.browser.action_chain().send_keys("j").perform().await.unwrap();
    s.until("they have played backwards", "window.went.length >= 6").await;
    s.browser.action_chain().send_keys("j").perform().await.unwrap();
    let backwards = s.script("return window.went.slice(0, 5).join(' ')").await;
    assert!("4 3 2 1 4 3 2 1 4 3".contains(backwards.as_str().unwrap()), "{backwards}");
    assert_eq!(s.script(&format!("return {asked} - window.asked")).await, 0, "all were there");
    // Between two marks, and once.
    s.click("[data-ruler-key='1']").await;
    next_frame(&s, 2).await;
    s.browser.action_chain().send_keys("i").perform().await.unwrap();
    next_frame(&s, 3).await;
    s.browser.action_chain().send_keys("o").perform().await.unwrap();
    s.see("[data-between='2-3']").await;
    s.script("window.went.length = 0").await;
    s.browser.action_chain().send_keys("l").perform().await.unwrap();
    s.until("both have played", "window.went.length >= 4").await;
    s.browser.action_chain().send_keys("l").perform().await.unwrap();
    let went = s.script("return window.went.slice(0, 4).join(' ')").await;
    assert_eq!(went, "2 3 2 3");
    // An end is dragged along the line, also where a key lies under it.
    s.words("Play").await;
    s.click("[data-frame] [aria-label='Frame before']").await;
    s.click("[data-played=to]").await;
    s.see("[data-frame='3']").await;
    s.type_number("Exposure (stops)", "2").await;
    s.see("[data-ruler-key='3']").await;
    s.rest().await;
    let ends = "return JSON.stringify([...document.querySelectorAll('[data-played], [data-frame], [data-between]')].map((e) => [{ ...e.dataset }, e.getBoundingClientRect().x]))";
    let before = s.script(ends).await;
    s.drag("[data-played=to]", 400, 0).await;
    let after = s.script(ends).await;
    s.until(
        &format!("the last frame that is played is 4; {before} became {after}"),
        "document.querySelector(\"[data-between='2-4']\")",
    )
    .await;
    s.click("[data-playing-menu]").await;
    s.words("There and back").await;
    s.look("time_playing").await;
    s.words("All frames").await.click().await.unwrap();
    s.until("the marks are gone", "!document.querySelector('[data-between]')").await;
    s.browser.action_chain().send_keys(Key::Escape).perform().await.unwrap();
    // One pixel over time.
    s.words("Time").await.click().await.unwrap();
    s.click("[data-pixel-course]").await;
    s.click_pane("picture", 20, 10).await;
    s.until(
        "the course of the pixel is there",
        "document.querySelector('[data-pixel-at] [data-course=\"4\"]')",
    )
    .await;
    s.look("time_pixel").await;
    s.words("Time").await.click().await.unwrap();
    // Frames side by side; a click goes to one.
    s.words("Strip").await.click().await.unwrap();
    s.until(
        "all four are seen",
        "document.querySelectorAll('[data-strip] img').length === 4 && [...document.querySelectorAll('[data-strip] img')].every((i) => i.naturalWidth > 0)",
    )
    .await;
    s.look("time_strip").await;
    s.click("[data-strip='3']").await;
    s.see("[data-frame='3']").await;
    s.rest().await;
    let count = s.script("return window.went.length").await;
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    assert_eq!(s.script("return window.went.length").await, count, "it has stopped");
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn mattes_joins_and_placements_have_keys_and_several_are_changed_at_once() {
    let s = Stage::start(320, 1).await;
    s.open_take(4, 8, 480).await;
    s.add_change("Exposure").await;
    s.add_part("depth").await;
    s.rest().await;
    let at = |place: &str| format!("[data-key][data-at$='{place}']");
    let key = async |place: &str| {
        s.click(&at(place)).await;
        s.see(&format!("{}[data-key=key]", at(place))).await;
        s.rest().await;
    };
    key("/by/near").await;
    key("/joins/strength").await;
    next_frame(&s, 2).await;
    next_frame(&s, 3).await;
    s.type_number("Near", "7").await;
    s.see(&format!("{}[data-key=key]", at("/by/near"))).await;
    s.rest().await;
    s.click("[data-edge]").await;
    key("/finish/grow").await;
    s.look("time_edge_keyed").await;
    s.browser.action_chain().send_keys(Key::Escape).perform().await.unwrap();
    s.add_part("ellipse").await;
    s.rest().await;
    key("/by/centre").await;
    s.click("[aria-label='Frame before']").await;
    s.see("[data-frame='2']").await;
    s.drag("[data-handle=ellipse-centre]", -90, 40).await;
    s.see(&format!("{}[data-key=key]", at("/by/centre"))).await;
    s.see("[data-key-path$='/by/centre']").await;
    s.rest().await;
    s.look("time_matte_keyed").await;
    // A key is dragged in the picture, too.
    s.drag("[data-handle=key-3]", 60, -30).await;
    s.rest().await;
    s.look("time_matte_path").await;
    next_frame(&s, 3).await;
    s.rest().await;
    s.click("[data-element='1'] button").await;
    s.click("[data-place-element]").await;
    s.rest().await;
    key("/placement/scale").await;
    s.look("time_placement_keyed").await;

    // All keys of one value: nearer together, then the same elsewhere.
    s.words("Time").await.click().await.unwrap();
    let driven = |place: &str| format!("[data-driven$='{place}']");
    s.click(&driven("/by/near")).await;
    s.words("Pick all keys").await.click().await.unwrap();
    s.see("[data-picked-keys='2']").await;
    s.type_number("Stretch (×)", "0.5").await;
    s.see("[data-point='2'][data-picked=true]").await;
    s.look("time_keys_picked").await;
    s.words("Copy").await.click().await.unwrap();
    s.click(&driven("/joins/strength")).await;
    s.words("Paste 2").await.click().await.unwrap();
    s.see("[data-point='4']").await;
    s.see("[data-picked-keys='2']").await;
    s.words("Take away").await.click().await.unwrap();
    s.until("the first one is left", "document.querySelectorAll('[data-point]').length === 1").await;
    s.rest().await;
    s.browser.refresh().await.unwrap();
    s.see("[data-frame]").await;
    s.words("Time").await.click().await.unwrap();
    s.until("what moves is there", "document.querySelectorAll('[data-driven]').length === 5").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_moves_is_blurred_and_the_rest_stays() {
    let s = Stage::start(320, 1).await;
    s.open_take(4, 8, 480).await;
    s.rest().await;
    let before = s.pixels().await;
    s.add_change("Motion blur").await;
    s.rest().await;
    let blurred = s.pixels().await;
    assert_ne!(before, blurred);
    s.type_number("Length (×)", "3").await;
    s.rest().await;
    assert_ne!(s.pixels().await, blurred);
    s.look("motion_blur").await;
    s.type_number("Shutter (°)", "0").await;
    s.rest().await;
    assert_eq!(s.pixels().await, before, "a shutter that never opens changes nothing");
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_has_keys_on_its_place_is_blurred_by_its_own_motion() {
    let s = Stage::start(320, 1).await;
    s.open_drift(480, 8).await;
    s.see("[data-element='4'] [data-step='4']").await;
    next_frame(&s, 2).await;
    s.rest().await;
    s.look("drift").await;
    let blurred = s.pixels().await;
    s.click("[data-element='4'] [data-step='4'] [role=switch]").await;
    s.kept(2).await;
    s.rest().await;
    let sharp = s.pixels().await;
    assert_ne!(sharp, blurred);
    // Without the pass of its moves there is nothing to blur it by: adding the change again makes it.
    s.click("[data-element-name='3']").await;
    s.add_change_to(3, "Motion blur").await;
    s.kept(3).await;
    s.see("[data-element='3'] [data-step='1']").await;
    s.until(
        "its pass is there",
        "document.querySelector('[role=toolbar][aria-label=Passes]')?.textContent.includes('motion')",
    )
    .await;
    s.look("drift_added").await;
    s.end().await;
}

/// Opens three frames of a room whose camera turns to the left.
async fn open_pan(s: &Stage) {
    let files: Vec<PathBuf> = (1..=3)
        .map(|frame| {
            let file = s.folder.path().join(format!("pan.{frame:04}.exr"));
            let settings = Settings { seed: Some(9), frame, pan: 2.0, ..Settings::sized(480, 270, 2) };
            std::fs::write(&file, export::plain(&render(&settings)).unwrap()).unwrap();
            file
        })
        .collect();
    s.open_frames(&files).await;
}

/// The place of the chosen lamp's handle over the picture, as the browser knows it.
const LAMP: &str = "document.querySelector('[data-pane=picture] [data-handle=lamp]').getBoundingClientRect()";

/// Where the chosen lamp is in the pane of the picture, px.
async fn lamp(s: &Stage) -> [f64; 2] {
    let at = s.script(&format!("const b = {LAMP}; return [b.x, b.y]")).await;
    [0, 1].map(|i| at[i].as_f64().unwrap())
}

/// Waits until the lamp has gone to the right of a place by more than 5 px.
async fn goes_right(s: &Stage, of: [f64; 2]) {
    s.until("the lamp goes along with the picture", &format!("{LAMP}.x > {}", of[0] + 5.0)).await;
    s.rest().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lamp_stays_in_the_scene_while_the_camera_turns() {
    let s = Stage::start(320, 1).await;
    open_pan(&s).await;
    s.add_change("Relight").await;
    s.kept(2).await;
    s.press_in_deck("Point").await;
    s.kept(3).await;
    s.rest().await;
    let first = lamp(&s).await;
    s.look("lamp_first").await;
    next_frame(&s, 2).await;
    // What stands still goes to the right while the camera turns to the left.
    goes_right(&s, first).await;
    let second = lamp(&s).await;
    s.look("lamp_second").await;
    // Dragged there, it is where it was dragged to, and as far away on the first frame.
    s.drag("[data-pane=picture] [data-handle=lamp]", 40, 0).await;
    s.kept(4).await;
    s.rest().await;
    let dragged = lamp(&s).await;
    assert!((dragged[0] - second[0] - 40.0).abs() < 2.0 && (dragged[1] - second[1]).abs() < 2.0);
    next_frame(&s, 3).await;
    goes_right(&s, dragged).await;
    // Fixed on the camera it stays in the picture.
    s.press_in_deck("Camera").await;
    s.kept(5).await;
    s.rest().await;
    let fixed = lamp(&s).await;
    s.click("[aria-label='Frame before']").await;
    s.see("[data-frame='2']").await;
    s.rest().await;
    assert_eq!(lamp(&s).await, fixed);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_stands_still_is_blurred_as_the_files_say_that_the_camera_goes() {
    let s = Stage::start(320, 1).await;
    open_pan(&s).await;
    s.open_without(0, Role::Motion).await;
    next_frame(&s, 2).await;
    s.rest().await;
    let sharp = s.pixels().await;
    s.add_change("Motion blur").await;
    s.kept(2).await;
    let said = "document.querySelector('[role=toolbar][aria-label=Passes]')?.textContent.includes('motion')";
    s.until("its pass is there", said).await;
    assert_ne!(s.pixels().await, sharp);
    s.look("camera_motion").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_range_of_frames_is_written_stopped_and_goes_on() {
    let s = Stage::start(320, 1).await;
    s.open_take(4, 8, 960).await;
    s.add_change("Refocus").await;
    s.rest().await;
    s.words("Hand off").await.click().await.unwrap();
    s.words("A range of frames").await.click().await.unwrap();
    s.type_number("Last", "6").await;
    // An animated proof, as the browser's own decoder takes it.
    let proof = "const link = document.querySelector('[data-proof]').href;
        const data = await (await fetch(link)).arrayBuffer();
        const decoder = new ImageDecoder({ data, type: 'image/png' });
        await decoder.tracks.ready;
        await decoder.completed;
        const { image } = await decoder.decode({ frameIndex: 5 });
        return [decoder.tracks.selectedTrack.frameCount, image.displayWidth, Math.floor(image.duration / 1000), decoder.tracks.selectedTrack.repetitionCount === Infinity];";
    assert_eq!(s.script(proof).await, serde_json::json!([6, 480, 41, true]));
    // Kept here, and put into a folder that the server has for it.
    s.words("A folder").await.click().await.unwrap();
    s.look("job_folder").await;
    s.click("[data-start-job]").await;
    s.see("[data-job=running]").await;
    s.click("[data-job-change=stop]").await;
    s.see("[data-job=stopped]").await;
    s.look("job_stopped").await;
    s.click("[data-job-change=go_on]").await;
    s.see("[data-job=running]").await;
    s.until("a picture comes", "document.querySelector('[data-job] img')?.naturalWidth > 0").await;
    s.look("job_running").await;
    s.until("it is done", "document.querySelector('[data-job=done][data-done=\"6\"]')").await;
    s.until("all pictures are there", "document.querySelectorAll('[data-job] img').length === 6").await;
    s.see("[data-put='6']").await;
    s.look("job_done").await;
    s.click("[data-job] a[href$=zip]").await;
    let file = std::fs::File::open(s.downloaded("zip").await).unwrap();
    let mut together = zip::ZipArchive::new(file).unwrap();
    assert_eq!(together.len(), 6);
    for at in 0..6 {
        let frame = together.by_index(at).unwrap();
        assert!(frame.size() > 960 * 540, "frame {at} has {} bytes", frame.size());
    }
    s.click("[data-job-forget]").await;
    s.until("it is gone", "!document.querySelector('[data-job]')").await;
    s.end().await;
}
