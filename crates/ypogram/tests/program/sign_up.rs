//! The example of a sign-up form, used by a browser as a visitor would.

use std::io::{BufRead as _, BufReader, Read as _, Write as _};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use serde_json::{Value, json};

use crate::Place;

/// A process that ends with the test.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// Starts a program, and gives what stands behind `mark` in the first line that it prints with that; nothing where it is not there.
fn started(command: &mut Command, mark: &str) -> Option<(Running, String)> {
    let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().ok()?;
    let lines = BufReader::new(child.stdout.take()?).lines();
    let running = Running(child);
    let line = lines.map_while(Result::ok).find(|line| line.contains(mark))?;
    let (_, behind) = line.split_once(mark)?;
    Some((running, behind.trim_matches(|c: char| !c.is_ascii_digit()).to_owned()))
}

/// A browser, by the protocol of WebDriver.
struct Browser {
    port: String,
    session: String,
}

impl Browser {
    /// Nothing where it does not start, as in a sandbox that it does not know.
    fn open(port: String) -> Option<Self> {
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
        let mut browser = Browser { port, session: String::new() };
        let session = browser.call("POST", "", &asked);
        browser.session = format!("/{}", session["sessionId"].as_str()?);
        Some(browser)
    }

    fn call(&self, method: &str, path: &str, body: &Value) -> Value {
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

    fn go(&self, url: &str) {
        self.call("POST", "/url", &json!({ "url": url }));
    }

    /// The element that a selector of CSS finds.
    fn find(&self, selector: &str) -> String {
        let found = self.call("POST", "/element", &json!({"using": "css selector", "value": selector}));
        let id = found.as_object().and_then(|found| found.values().next()).and_then(Value::as_str);
        format!("/element/{}", id.unwrap_or_else(|| panic!("{selector}: {found}")))
    }

    fn click(&self, selector: &str) {
        self.call("POST", &format!("{}/click", self.find(selector)), &json!({}));
    }

    fn text(&self, selector: &str) -> String {
        let text = self.call("GET", &format!("{}/text", self.find(selector)), &Value::Null);
        text.as_str().unwrap_or_default().to_owned()
    }

    fn close(self) {
        self.call("DELETE", "", &Value::Null);
    }
}

#[test]
fn a_visitor_signs_up_and_learns_of_nobody() {
    let Some((_driver, port)) =
        started(Command::new("chromedriver").arg("--port=0"), "started successfully on port")
    else {
        return eprintln!("skipped: no chromedriver is here");
    };
    let place = Place::with(&[]);
    assert_eq!(place.run("register new guests.register").code, 0);
    assert_eq!(place.run("register withdraw guests.register gone@quarryfarm.org --forget").code, 0);
    let server = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples/sign-up/server.py");
    let mut command = Command::new("python3");
    command.arg(server).args(["guests.register", "--port", "0", "--program", env!("CARGO_BIN_EXE_ypogram")]);
    let Some((_server, at)) = started(command.current_dir(place.path("")), "http://127.0.0.1:") else {
        return eprintln!("skipped: no Python is here");
    };
    let Some(browser) = Browser::open(port) else {
        return eprintln!("skipped: the browser does not start");
    };
    let sign_up = |address: &str| {
        browser.go(&format!("http://127.0.0.1:{at}/"));
        let typed = json!({ "text": address });
        browser.call("POST", &format!("{}/value", browser.find("#email")), &typed);
        browser.click("form > button");
        browser.find("[role]");
        browser.text("body")
    };
    // Admitted, known in another spelling, and withdrawn: one answer.
    let thanks = sign_up("zeno@quarryfarm.org");
    assert!(thanks.contains("Thank you."), "{thanks}");
    for address in ["Zeno@QuarryFarm.org", "gone@quarryfarm.org", "bea@quarryfarm.org"] {
        assert_eq!(sign_up(address), thanks, "{address}");
    }
    // Refused with the reason, and what is typed is no page.
    let refused = sign_up("<b id=x>@quarryfarm.org");
    assert!(refused.contains("Your email address") && !refused.contains("Thank you"), "{refused}");
    // A slip: one click takes what was meant.
    let slip = sign_up("night.owl@gmial.com");
    assert!(slip.contains("Did you mean night.owl@gmail.com"), "{slip}");
    browser.click("p > button");
    browser.find("[role=status]");
    assert_eq!(browser.text("body"), thanks);
    browser.close();
    assert_eq!(place.run("register list guests.register -o listed.csv").code, 0);
    // Of who is forgotten, only a hash is kept.
    let listed = crate::table(&place.read("listed.csv"));
    let listed: Vec<&str> = listed.iter().map(|row| &*row["address"]).collect();
    assert_eq!(listed, ["bea@quarryfarm.org", "night.owl@gmail.com", "zeno@quarryfarm.org"]);
}
