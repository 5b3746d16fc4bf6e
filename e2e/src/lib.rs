//! The real interface, driven in headless Chromium: a server on loopback, ChromeDriver, and what a person
//! does. Needs Debian's `chromium` and `chromium-driver`, PostgreSQL, and the built interface in `web/dist`.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

use jugata_core::Role;
use jugata_server::{App, Config, arrivals, build, delivery, demo, jobs, open, outbox};
use jugata_standin::{Settings, export, render};
use jugata_testkit::Database;
use std::net::{TcpListener, TcpStream};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::Arc;
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

/// Longest wait for something on the page: builds without optimisation on a busy machine are slow.
pub const PATIENCE: Duration = Duration::from_secs(90);

/// A server with the demo shot, a browser, and a folder for downloads.
pub struct Stage {
    /// The browser.
    pub browser: WebDriver,
    /// Address of the server, without a slash at its end.
    pub url: String,
    /// Where downloads and other files go.
    pub folder: tempfile::TempDir,
    rooms: Arc<App>,
    driver: Child,
    shutdown: Option<rocket::Shutdown>,
    _postgres: Database,
}

fn free_port() -> u16 {
    TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port()
}

async fn answers(port: u16) {
    let start = Instant::now();
    while TcpStream::connect(("127.0.0.1", port)).is_err() {
        assert!(start.elapsed() < PATIENCE, "nothing answers on port {port}");
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

impl Stage {
    /// Starts everything, with the demo picture at this width (16:9) and this many samples.
    ///
    /// # Panics
    /// If something that it needs is missing.
    pub async fn start(width: u32, samples: u32) -> Self {
        let postgres = Database::make();
        let folder = tempfile::tempdir().unwrap();
        let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../web/dist");
        assert!(web.join("index.html").exists(), "the interface is not built: run `make web`");
        let port = free_port();
        let mut config = Config::new(postgres.url(), folder.path().join("media"), web, port);
        let drop = folder.path().join("drop");
        config.drop = Some(drop.clone());
        config.out = Some(folder.path().join("out"));
        let rooms = open(config).await.unwrap();
        tokio::spawn(delivery::watch(rooms.clone(), drop));
        tokio::spawn(outbox::put_out(rooms.clone(), folder.path().join("out")));
        tokio::spawn(arrivals::listen(rooms.clone()));
        tokio::spawn(jobs::work_on(rooms.clone()));
        let kept = rooms.clone();
        let settings = Settings::sized(width, width * 9 / 16, samples);
        demo::make(&rooms, settings).await.unwrap();
        let app = build(rooms).ignite().await.unwrap();
        let shutdown = app.shutdown();
        tokio::spawn(app.launch());
        answers(port).await;

        let driver_port = free_port();
        let mut driver = Command::new("chromedriver")
            .arg(format!("--port={driver_port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver from Debian's chromium-driver");
        answers(driver_port).await;
        let browser =
            WebDriver::new(format!("http://127.0.0.1:{driver_port}"), capabilities(folder.path())).await;
        let browser = browser.unwrap_or_else(|e| {
            let _ = driver.kill();
            panic!("no browser: {e}")
        });
        // The window has a frame; the page is what should measure 1280×800.
        browser.set_window_rect(0, 0, 1280, 800).await.unwrap();
        let inner = browser.execute("return innerHeight", vec![]).await.unwrap().json().as_u64().unwrap();
        browser.set_window_rect(0, 0, 1280, 1600 - inner as u32).await.unwrap();
        let url = format!("http://127.0.0.1:{port}");
        Self { browser, url, folder, driver, rooms: kept, shutdown: Some(shutdown), _postgres: postgres }
    }

    /// Makes the demo's title on a frame of this width, and opens it.
    pub async fn open_title(&self, width: u32) {
        let id = demo::make_title(&self.rooms, width).await.unwrap();
        self.go(&format!("/shots/{id}")).await;
    }

    /// Makes the demo's take of so many frames of this width, and opens it.
    pub async fn open_demo_take(&self, width: u32, frames: i32) {
        let settings = Settings::sized(width, width * 9 / 16, 2);
        let id = demo::make_take(&self.rooms, settings, frames).await.unwrap();
        self.go(&format!("/shots/{id}")).await;
        self.see("[data-frame='1']").await;
    }

    /// Makes the demo's take of so many frames of this width and the ship that drifts past it, and opens that.
    pub async fn open_drift(&self, width: u32, frames: i32) {
        let settings = Settings::sized(width, width * 9 / 16, 2);
        let take = demo::make_take(&self.rooms, settings, frames).await.unwrap();
        let id = demo::make_drift(&self.rooms, take).await.unwrap();
        self.go(&format!("/shots/{id}")).await;
        self.see("[data-frame='1']").await;
    }

    /// Opens a shot in which the orrery stands twice, each time with one step that does this.
    pub async fn open_twice(&self, does: [serde_json::Value; 2]) {
        let first = self.rooms.store.list().unwrap()[0].id;
        let mut doc = serde_json::to_value(self.rooms.store.load(first).unwrap().shot).unwrap();
        let element = doc["elements"][0].clone();
        let twice = does.into_iter().zip(1u32..).map(|(does, id)| {
            let mut own = element.clone();
            (own["id"], own["name"]) = (id.into(), format!("Orrery {id}").into());
            own["steps"] =
                serde_json::json!([{ "id": 1, "on": true, "does": does, "joins": element["steps"][1]["joins"] }]);
            own
        });
        doc["elements"] = twice.collect();
        let shot = serde_json::from_value(doc).unwrap();
        let id = self.rooms.store.create(&shot, "Stand twice").unwrap();
        self.go(&format!("/shots/{id}")).await;
    }

    /// Brings files in as a new shot, which opens under Intake.
    pub async fn bring(&self, files: &[PathBuf]) {
        self.go("/shots").await;
        let list: Vec<&str> = files.iter().map(|f| f.to_str().unwrap()).collect();
        self.see("[data-upload]").await.send_keys(list.join("\n")).await.unwrap();
        self.see("[data-checked=yes]").await;
    }

    /// Brings in a take of the orrery, a file for each of frames 1 to `count` with `step` of the orrery's own between
    /// them, and opens it on the Bench.
    pub async fn open_take(&self, count: i32, step: i32, width: u32) {
        let files: Vec<PathBuf> = (1..=count)
            .map(|frame| {
                let file = self.folder.path().join(format!("take.{frame:04}.exr"));
                let settings = Settings { frame: step * frame, ..Settings::sized(width, width * 9 / 16, 2) };
                std::fs::write(&file, export::plain(&render(&settings)).unwrap()).unwrap();
                file
            })
            .collect();
        self.open_frames(&files).await;
    }

    /// Brings in files of a take that begins at frame 1, and opens it on the Bench.
    pub async fn open_frames(&self, files: &[PathBuf]) {
        self.bring(files).await;
        self.words("To the Bench").await.click().await.unwrap();
        self.see("[data-frame='1']").await;
    }

    /// Opens the shot of this place in the list of shots anew, without its passes of a role.
    pub async fn open_without(&self, place: usize, role: Role) {
        let id = self.rooms.store.list().unwrap()[place].id;
        let mut shot = self.rooms.store.load(id).unwrap().shot;
        shot.elements.iter_mut().for_each(|e| e.passes.retain(|p| p.role != role));
        let id = self.rooms.store.create(&shot, &format!("Without {role:?}")).unwrap();
        self.go(&format!("/shots/{id}")).await;
        self.see("[data-element='1']").await;
    }

    /// Goes to a page of the application.
    pub async fn go(&self, path: &str) {
        self.browser.goto(format!("{}{path}", self.url)).await.unwrap();
    }

    /// The first element that a CSS selector finds, waited for.
    pub async fn see(&self, css: &str) -> WebElement {
        self.browser
            .query(By::Css(css.to_owned()))
            .wait(PATIENCE, Duration::from_millis(60))
            .first()
            .await
            .unwrap_or_else(|e| panic!("no {css}: {e}"))
    }

    /// A button or link by its words, waited for.
    pub async fn words(&self, words: &str) -> WebElement {
        let path = format!("//*[self::button or self::a][contains(normalize-space(.), '{words}')]");
        self.browser
            .query(By::XPath(path))
            .wait(PATIENCE, Duration::from_millis(60))
            .first()
            .await
            .unwrap_or_else(|e| panic!("no button “{words}”: {e}"))
    }

    /// Adds a change to the first element by its title in the menu.
    pub async fn add_change(&self, title: &str) {
        self.add_change_to(1, title).await;
    }

    /// Adds a change to an element.
    pub async fn add_change_to(&self, element: u32, title: &str) {
        let add = format!("//*[@data-element='{element}']//button[contains(., 'Add a change')]");
        let found = self.browser.query(By::XPath(add)).wait(PATIENCE, Duration::from_millis(60));
        found.first().await.unwrap().click().await.unwrap();
        let item = format!("//*[@role='option'][contains(., '{title}')]");
        let found = self.browser.query(By::XPath(item)).wait(PATIENCE, Duration::from_millis(60));
        found.first().await.unwrap().click().await.unwrap();
    }

    /// Chooses an entry of a list that opens, by the names of list and entry.
    pub async fn choose(&self, list: &str, entry: &str) {
        self.see(&format!("[data-select='{list}']")).await.click().await.unwrap();
        self.see(&format!("[data-option='{entry}']")).await.click().await.unwrap();
        self.until("the list is closed again", "!document.querySelector('[data-option]')").await;
    }

    /// Presses a button of the deck by its whole text; the panes have some of the same words.
    pub async fn press_in_deck(&self, words: &str) {
        let path = format!("//*[@aria-label='Deck']//button[normalize-space(.) = '{words}']");
        let found = self.browser.query(By::XPath(path)).wait(PATIENCE, Duration::from_millis(60));
        found.first().await.unwrap().click().await.unwrap();
    }

    /// Adds a part of a kind to the matte of the chosen step.
    pub async fn add_part(&self, kind: &str) {
        self.see("[data-add-part]").await.click().await.unwrap();
        self.see(&format!("[data-part-kind={kind}]")).await.click().await.unwrap();
    }

    /// Adds an extracted pass of a kind.
    pub async fn extract(&self, kind: &str) {
        self.see("[data-extract-menu]").await.click().await.unwrap();
        self.see(&format!("[data-extract-kind={kind}]")).await.click().await.unwrap();
    }

    /// What a step says of itself.
    pub async fn sentence(&self, step: u32) -> String {
        self.see(&format!("[data-step='{step}'] [aria-current]")).await.text().await.unwrap()
    }

    /// Clicks in a pane, some px from its middle.
    pub async fn click_pane(&self, pane: &str, dx: i64, dy: i64) {
        let pane = self.see(&format!("[data-pane={pane}]")).await;
        let chain = self.browser.action_chain().move_to_element_center(&pane).move_by_offset(dx, dy);
        chain.click().perform().await.unwrap();
    }

    /// Points at what a selector finds, some px from its middle.
    pub async fn point_at(&self, css: &str, dx: i64, dy: i64) {
        let element = self.see(css).await;
        let chain = self.browser.action_chain().move_to_element_center(&element).move_by_offset(dx, dy);
        chain.perform().await.unwrap();
    }

    /// Waits until a revision is kept and shown.
    pub async fn kept(&self, revision: u32) {
        let js = format!(
            "document.querySelector('[data-saved=yes]')?.textContent.endsWith('revision {revision}')"
        );
        self.until(&format!("revision {revision} is kept"), &js).await;
        self.rest().await;
    }

    /// Takes the last change back, and waits until that is kept.
    pub async fn undo(&self) {
        // A click while the change before it is still on its way to be kept would be lost.
        self.until("all is kept", "document.querySelector('[data-saved=yes]')").await;
        let before = self.revision().await;
        self.click("[aria-label=Undo]:not(:disabled)").await;
        self.another_than(&before).await;
    }

    /// Takes the last change back by its key, or brings it again, wherever the focus is; waits until that is kept.
    pub async fn undo_by_key(&self, again: bool) {
        let before = self.revision().await;
        let chain = self.browser.action_chain().key_down(Key::Control);
        let chain = if again { chain.key_down(Key::Shift) } else { chain };
        let chain = chain.send_keys("z");
        let chain = if again { chain.key_up(Key::Shift) } else { chain };
        chain.key_up(Key::Control).perform().await.unwrap();
        self.another_than(&before).await;
    }

    /// The words of the revision that is shown, as a string of a script.
    async fn revision(&self) -> String {
        self.script("return document.querySelector('[data-saved]').textContent").await.to_string()
    }

    async fn another_than(&self, revision: &str) {
        let js = format!(
            "document.querySelector('[data-saved=yes]') && document.querySelector('[data-saved]').textContent !== {revision}"
        );
        self.until("another revision is kept", &js).await;
    }

    /// Types a number into a field, found by its label with its unit.
    pub async fn type_number(&self, label: &str, number: &str) {
        let field = self.see(&format!("input[aria-label='{label}']")).await;
        field.click().await.unwrap();
        field.send_keys(Key::Control + "a").await.unwrap();
        field.send_keys(number).await.unwrap();
        field.send_keys(Key::Enter).await.unwrap();
    }

    /// Runs a script in the page and returns what it returns.
    pub async fn script(&self, js: &str) -> serde_json::Value {
        self.browser.execute(js, vec![]).await.unwrap().json().clone()
    }

    /// Lets the page wait longer for answers to what is asked of a path, ms, as a busy server would; until the page is
    /// loaded anew.
    pub async fn answer_late(&self, path: &str, ms: u32) {
        let js = format!(
            "const ask = window.fetch;
            window.fetch = async (what, how) => {{
                if (String(what.url ?? what).includes('{path}')) await new Promise((r) => setTimeout(r, {ms}));
                return ask(what, how);
            }}"
        );
        self.script(&js).await;
    }

    /// Waits until a script returns true.
    pub async fn until(&self, what: &str, js: &str) {
        let start = Instant::now();
        while self.script(&format!("return Boolean({js})")).await != serde_json::json!(true) {
            assert!(start.elapsed() < PATIENCE, "waited in vain until {what}");
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
    }

    /// Waits until both panes show the whole answer and nothing is being saved.
    pub async fn rest(&self) {
        self.until("the page rests", "document.querySelector('[data-saved=yes]') && document.querySelector('[data-pane=picture]').dataset.ready !== ''")
            .await;
        // Until the picture stays the same for a moment: the fine answer follows the coarse one.
        let start = Instant::now();
        let mut before = self.pixels().await;
        loop {
            tokio::time::sleep(Duration::from_millis(350)).await;
            let now = self.pixels().await;
            if now == before {
                return;
            }
            assert!(start.elapsed() < PATIENCE, "the picture does not come to rest");
            before = now;
        }
    }

    /// A short digest of the pixels in the picture pane.
    pub async fn pixels(&self) -> String {
        let js = "const c = document.querySelector('[data-pane=picture] canvas');
            const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
            let h = 2166136261; for (let i = 0; i < d.length; i += 4) h = Math.imul(h ^ (d[i] + 256 * d[i+1] + 65536 * d[i+2]), 16777619);
            return c.width + 'x' + c.height + ':' + (h >>> 0);";
        self.script(js).await.to_string()
    }

    /// Drags an element by some px.
    pub async fn drag(&self, css: &str, dx: i64, dy: i64) {
        let element = self.see(css).await;
        let chain = self.browser.action_chain().move_to_element_center(&element).click_and_hold();
        let chain = chain.move_by_offset(dx / 2, dy / 2).move_by_offset(dx - dx / 2, dy - dy / 2);
        chain.release().perform().await.unwrap();
    }

    /// Clicks what a selector finds, once it is there.
    pub async fn click(&self, css: &str) {
        self.see(css).await.click().await.unwrap();
    }

    /// Writes a PNG of the page into the folder that `JUGATA_LOOK` names, if it names one.
    pub async fn look(&self, name: &str) {
        if let Some(folder) = std::env::var_os("JUGATA_LOOK") {
            self.shot(&Path::new(&folder).join(format!("{name}.png"))).await;
        }
    }

    /// Writes a PNG of the page.
    pub async fn shot(&self, path: &Path) {
        self.browser.screenshot(path).await.unwrap();
    }

    /// The first whole file in the download folder with this ending, waited for.
    pub async fn downloaded(&self, ending: &str) -> PathBuf {
        let start = Instant::now();
        loop {
            let files = std::fs::read_dir(self.folder.path()).unwrap().flatten().map(|e| e.path());
            if let Some(file) = files.into_iter().find(|p| p.extension().is_some_and(|e| e == ending)) {
                return file;
            }
            assert!(start.elapsed() < PATIENCE, "no .{ending} was downloaded");
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    }

    /// A download of this name, once it is there.
    pub async fn file(&self, name: &str) -> PathBuf {
        let (path, start) = (self.folder.path().join(name), Instant::now());
        while !path.exists() {
            assert!(start.elapsed() < PATIENCE, "no {name} was downloaded");
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
        path
    }

    /// Ends the browser and the server.
    pub async fn end(mut self) {
        let _ = self.browser.clone().quit().await;
        if let Some(shutdown) = self.shutdown.take() {
            shutdown.notify();
        }
    }
}

impl Drop for Stage {
    fn drop(&mut self) {
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}

fn capabilities(downloads: &Path) -> thirtyfour::ChromeCapabilities {
    let mut c = DesiredCapabilities::chrome();
    for arg in [
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--disable-dev-shm-usage",
        "--hide-scrollbars",
        "--force-device-scale-factor=1",
        "--window-size=1280,800",
    ] {
        c.add_arg(arg).unwrap();
    }
    c.set_binary("/usr/bin/chromium").unwrap();
    let prefs = serde_json::json!({
        "download.default_directory": downloads,
        "download.prompt_for_download": false,
    });
    c.add_experimental_option("prefs", prefs).unwrap();
    c
}
