//! A browser that tests use as a visitor would.

use std::io::{BufRead as _, BufReader, Read as _, Write as _};
use std::net::TcpStream;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use serde_json::{Value, json};

/// A process that ends with the test.
pub(crate) struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// Starts a program, and gives what stands behind `mark` in the first line that it prints with that; nothing where it is not there.
pub(crate) fn started(command: &mut Command, mark: &str) -> Option<(Running, String)> {
    let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().ok()?;
    let lines = BufReader::new(child.stdout.take()?).lines();
    let running = Running(child);
    let line = lines.map_while(Result::ok).find(|line| line.contains(mark))?;
    let (_, behind) = line.split_once(mark)?;
    Some((running, behind.trim_matches(|c: char| !c.is_ascii_digit()).to_owned()))
}

/// A browser, by the protocol of WebDriver.
pub(crate) struct Browser {
    _driver: Running,
    port: String,
    session: String,
}

impl Browser {
    /// Nothing where there is none, or where it does not start, as in a sandbox that it does not know.
    pub(crate) fn open() -> Option<Self> {
        let mut driver = Command::new("chromedriver");
        let Some((driver, port)) = started(driver.arg("--port=0"), "started successfully on port") else {
            eprintln!("skipped: no chromedriver is here");
            return None;
        };
        let options = ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"];
        let quiet = [
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
        ];
        let options = [&options[..], &quiet[..]].concat();
        // What a click leads to is waited for.
        let asked = json!({"capabilities": {"alwaysMatch": {
            "goog:chromeOptions": {"args": options}, "timeouts": {"implicit": 20_000}}}});
        let mut browser = Browser { _driver: driver, port, session: String::new() };
        let session = browser.call("POST", "", &asked);
        browser.session = format!("/{}", session["sessionId"].as_str()?);
        Some(browser)
    }

    pub(crate) fn call(&self, method: &str, path: &str, body: &Value) -> Value {
        let body = if method == "POST" { body.to_string() } else { String::new() };
        let mut stream = TcpStream::connect(format!("127.0.0.1:{}", self.port)).unwrap();
        write!(
            stream,
            "{method} /session{}{path} HTTP/1.1\r\nHost: localhost\r\nContent-Length: {}\r\n\r\n{body}",
            self.session,
            body.len()
        )
        .unwrap();
        // The driver leaves connections open; a browser that does not answer must not hold up all other tests.
        stream.set_read_timeout(Some(Duration::from_secs(180))).unwrap();
        let mut answer = BufReader::new(stream);
        let (mut line, mut length) = (String::new(), 0);
        while answer.read_line(&mut line).expect("an answer of the browser") > 2 {
            let header = line.to_ascii_lowercase();
            if let Some(value) = header.strip_prefix("content-length:") {
                length = value.trim().parse().unwrap();
            }
            line.clear();
        }
        let mut body = vec![0; length];
        answer.read_exact(&mut body).unwrap();
        serde_json::from_slice::<Value>(&body).unwrap()["value"].take()
    }

    pub(crate) fn go(&self, url: &str) {
        self.call("POST", "/url", &json!({ "url": url }));
    }

    /// The element that a selector of CSS finds.
    pub(crate) fn find(&self, selector: &str) -> String {
        let found = self.call("POST", "/element", &json!({"using": "css selector", "value": selector}));
        let id = found.as_object().and_then(|found| found.values().next()).and_then(Value::as_str);
        format!("/element/{}", id.unwrap_or_else(|| panic!("{selector}: {found}")))
    }

    pub(crate) fn click(&self, selector: &str) {
        self.call("POST", &format!("{}/click", self.find(selector)), &json!({}));
    }

    pub(crate) fn text(&self, selector: &str) -> String {
        let text = self.call("GET", &format!("{}/text", self.find(selector)), &Value::Null);
        text.as_str().unwrap_or_default().to_owned()
    }

    /// What a script returns.
    pub(crate) fn ask(&self, script: &str, arguments: &Value) -> Value {
        self.call("POST", "/execute/sync", &json!({ "script": script, "args": arguments }))
    }

    pub(crate) fn close(self) {
        self.call("DELETE", "", &Value::Null);
    }
}
