//! Room for the picture, controls without scrolling, what a moving pointer costs, quick edits, and what axe-core says.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use std::time::Duration;
use thirtyfour::prelude::*;

/// Share of the screen that the pictures in the panes cover.
async fn share(s: &Stage) -> f64 {
    let script = "return [...document.querySelectorAll('[data-pane]')].reduce((sum, p) => {
        const side = Math.min(p.clientWidth / 16, p.clientHeight / 9);
        return sum + side * side * 144;
    }, 0) / (innerWidth * innerHeight)";
    s.script(script).await.as_f64().unwrap()
}

async fn ready(s: &Stage, pane: &str) {
    s.until(pane, &format!("document.querySelector('[data-pane={pane}]')?.dataset.ready")).await;
}

async fn press(s: &Stage, keys: &str) {
    for key in keys.chars() {
        s.browser.action_chain().send_keys(key.to_string()).perform().await.unwrap();
    }
    tokio::time::sleep(Duration::from_millis(150)).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_picture_has_room_and_the_controls_need_no_scrolling() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    ready(&s, "picture").await;
    s.look("bench").await;
    let open = share(&s).await;
    press(&s, "2d").await;
    s.see("[data-deck-line]").await;
    let single = share(&s).await;
    s.look("single").await;
    press(&s, "1s").await;
    let pair = share(&s).await;
    s.look("pair").await;
    press(&s, "c").await;
    let clear_pair = share(&s).await;
    press(&s, "2").await;
    let clear_single = share(&s).await;
    s.look("cleared").await;
    println!(
        "pair, all open {open:.2}; single, deck folded {single:.2}; pair, steps and deck folded {pair:.2}; cleared: pair {clear_pair:.2}, single {clear_single:.2}"
    );
    assert!(single >= 0.50 && pair >= 0.40, "{single} {pair}");
    assert!(clear_pair >= 0.42 && clear_single >= 0.65, "{clear_pair} {clear_single}");
    press(&s, "c").await;
    press(&s, "sd").await;
    s.until("all is back", "document.querySelector('nav') && document.querySelector('[data-column]')").await;
    // What was folded stays folded after a reload, and what was dragged keeps its size.
    press(&s, "p").await;
    s.browser.refresh().await.unwrap();
    ready(&s, "picture").await;
    s.until("the tray is folded", "!document.querySelector('[role=toolbar][aria-label=Passes]')").await;
    press(&s, "p").await;
    press(&s, "1").await;

    // One of them lays clay over the picture, one goes by a map.
    for pass in ["clay", "moves_map"] {
        s.extract(pass).await;
        s.rest().await;
    }

    // Every kind of step shows all it does at 1280×800.
    let kinds = s
        .browser
        .execute("return (await (await fetch('/api/kinds')).json()).map((k) => k.title)", vec![])
        .await
        .unwrap();
    let kinds: Vec<String> = serde_json::from_value(kinds.json().clone()).unwrap();
    assert!(kinds.len() >= 10, "{kinds:?}");
    let mut scrolled = Vec::new();
    let steps = s.script("return document.querySelectorAll('[data-step]').length").await.as_u64().unwrap();
    for kind in &kinds {
        s.add_change(kind).await;
        s.rest().await;
        s.look(&format!("does-{}", kind.replace(' ', "-"))).await;
        scrolled.extend(too_large(&s).await.map(|by| format!("{kind}: {by}")));
        // Taken back, so that the next one is not worked out on top of it.
        s.undo().await;
        s.until("it is gone", &format!("document.querySelectorAll('[data-step]').length === {steps}")).await;
    }
    // The fullest kind beside a matte of every kind.
    for part in [
        "objects",
        "hashed",
        "depth",
        "facing",
        "luminance",
        "hue",
        "ellipse",
        "polygon",
        "gradient",
        "coverage",
        "brush",
    ] {
        s.add_change("Relight").await;
        s.add_part(part).await;
        s.rest().await;
        s.look(&format!("where-{part}")).await;
        scrolled.extend(too_large(&s).await.map(|by| format!("{part}: {by}")));
        s.undo().await;
        s.undo().await;
        s.until("both are gone", &format!("document.querySelectorAll('[data-step]').length === {steps}"))
            .await;
    }
    // The lamp with the most to say.
    s.add_change("Relight").await;
    s.rest().await;
    s.script("[...document.querySelectorAll('[data-column=Does] button')].find((b) => b.textContent === 'Spot').click()").await;
    s.rest().await;
    s.look("does-spot").await;
    scrolled.extend(too_large(&s).await.map(|by| format!("a spot: {by}")));
    assert!(scrolled.is_empty(), "{scrolled:#?}");
    s.end().await;
}

/// What does not fit into the columns of the deck, in px.
async fn too_large(s: &Stage) -> Option<String> {
    let over = "return [...document.querySelectorAll('[data-column] > div')]
        .map((d) => [d.scrollWidth - d.clientWidth, d.scrollHeight - d.clientHeight, d.parentElement.dataset.column])
        .filter(([x, y]) => x > 0 || y > 0).map((o) => o.join(' ')).join(', ')";
    let over = s.script(over).await;
    over.as_str().filter(|o| !o.is_empty()).map(str::to_owned)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_moving_pointer_draws_numbers_only_and_quick_edits_are_all_kept() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    ready(&s, "picture").await;
    ready(&s, "pass").await;
    let count = "window.drawn = 0; window.changed = new Set();
        const draw = CanvasRenderingContext2D.prototype.drawImage;
        CanvasRenderingContext2D.prototype.drawImage = function (...a) { window.drawn += 1; return draw.apply(this, a) };
        new MutationObserver((list) => list.forEach((m) => {
            const at = m.target.nodeType === 1 ? m.target : m.target.parentElement;
            if (!at?.closest('[data-numbers], [data-cross=crosshair]') && !m.target.querySelector?.(':scope > [data-cross=crosshair]'))
                window.changed.add(at?.outerHTML.slice(0, 120));
        })).observe(document.querySelector('main'), { subtree: true, childList: true, attributes: true, characterData: true })";
    s.browser.execute(count, vec![]).await.unwrap();
    let pane = s.see("[data-pane=picture]").await;
    for i in 0..20 {
        s.browser
            .action_chain()
            .move_to_element_with_offset(&pane, i * 5 - 50, i * 3 - 30)
            .perform()
            .await
            .unwrap();
    }
    s.until("numbers", "document.querySelector('[data-numbers] b')?.textContent").await;
    let drawn = s.browser.execute("return [window.drawn, [...window.changed]]", vec![]).await.unwrap();
    let (times, changed): (u32, Vec<String>) = serde_json::from_value(drawn.json().clone()).unwrap();
    assert!(times == 0 && changed.is_empty(), "{times} {changed:?}");

    // Three steps of a value, faster than any answer: none is lost, and each is a revision.
    s.see("[data-step='2'] button:not([role=switch])").await.click().await.unwrap();
    let before = s
        .script(
            "return Number(document.querySelector('[data-saved]').textContent.match(/revision (\\d+)/)[1])",
        )
        .await
        .as_u64()
        .unwrap();
    let field = s.see("[data-column=Does] input[aria-label^=Exposure]").await;
    let value = || async { field.prop("value").await.unwrap().unwrap().parse::<f64>().unwrap() };
    let from = value().await;
    let up = || format!("{}", Key::Up.value());
    field.focus().await.unwrap();
    field.send_keys(format!("{}{}{}", up(), up(), up())).await.unwrap();
    s.rest().await;
    s.until(
        "three revisions",
        &format!("document.querySelector('[data-saved]').textContent.includes('revision {}')", before + 3),
    )
    .await;
    let to = value().await;
    assert!((to - from - 0.03).abs() < 1e-6, "{from} {to}");
    s.end().await;
}

/// What axe-core finds on the page as it stands, in words.
async fn axe(s: &Stage, at: &str, found: &mut Vec<String>) {
    axe_in(s, "document", at, found).await;
}

async fn axe_in(s: &Stage, part: &str, at: &str, found: &mut Vec<String>) {
    let path =
        std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../web/node_modules/axe-core/axe.min.js");
    s.browser.execute(std::fs::read_to_string(path).unwrap(), vec![]).await.unwrap();
    let run = format!(
        "const r = await axe.run({part}, {{ resultTypes: ['violations'] }});
        return r.violations.map((v) => `${{v.id}}: ${{v.nodes.map((n) => n.html.slice(0, 140)).join(' | ')}}`)"
    );
    let told = s.browser.execute(&run, vec![]).await.unwrap();
    let told: Vec<String> = serde_json::from_value(told.json().clone()).unwrap();
    found.extend(told.into_iter().map(|v| format!("{at}: {v}")));
}

#[tokio::test(flavor = "multi_thread")]
async fn nothing_on_any_screen_shuts_anybody_out() {
    let s = Stage::start(320, 1).await;
    let mut found = Vec::new();
    for theme in ["dark", "light"] {
        s.go("/").await;
        s.script(&format!("localStorage.setItem('jugata-theme', '{theme}'); return null")).await;
        every_screen(&s, theme, &mut found).await;
    }
    assert!(found.is_empty(), "{}", found.join("\n"));
    s.end().await;
}

/// Goes through the screens, their dialogs and lists, in the theme that is set.
async fn every_screen(s: &Stage, theme: &str, found: &mut Vec<String>) {
    let named = |at: &str| format!("{theme} {at}");
    s.go("/").await;
    ready(s, "picture").await;
    s.rest().await;
    s.look(&named("bench")).await;
    axe(s, &named("bench"), found).await;
    for (open, at) in
        [("History", "history"), ("Keys", "keys"), ("Hand off…", "hand-off"), ("Compare", "compare")]
    {
        s.words(open).await.click().await.unwrap();
        s.see("[role=dialog]").await;
        if at == "compare" {
            s.choose("other", "0").await;
            s.see("[data-figures]").await;
        }
        tokio::time::sleep(Duration::from_millis(300)).await;
        s.look(&named(at)).await;
        axe(s, &named(at), found).await;
        s.browser.action_chain().send_keys(Key::Escape).perform().await.unwrap();
        s.until("closed", "!document.querySelector('[role=dialog]')").await;
    }
    s.words("Add a change").await.click().await.unwrap();
    s.see("[data-search-changes]").await.send_keys("haze").await.unwrap();
    s.until("found", "document.querySelectorAll('[role=option]').length < 4 && document.querySelector('[role=option]')?.textContent.includes('Haze')").await;
    axe(s, &named("changes"), found).await;
    s.browser.action_chain().send_keys(Key::Escape).perform().await.unwrap();
    s.see("[data-select=blend]").await.click().await.unwrap();
    s.see("[data-option=multiply]").await;
    s.look(&named("list")).await;
    // An open list holds the focus and hides the rest of the page from readers, so only the list is looked at.
    axe_in(s, "'[role=listbox]'", &named("list"), found).await;
    s.browser.action_chain().send_keys(Key::Escape).perform().await.unwrap();
    s.until("closed", "!document.querySelector('[data-option]')").await;
    s.see("[data-to-intake]").await.click().await.unwrap();
    s.see("table, [data-pass-row], h2").await;
    tokio::time::sleep(Duration::from_millis(500)).await;
    s.look(&named("intake")).await;
    axe(s, &named("intake"), found).await;
    s.go("/shots").await;
    s.see("[data-shot]").await;
    s.look(&named("shots")).await;
    axe(s, &named("shots"), found).await;
}
