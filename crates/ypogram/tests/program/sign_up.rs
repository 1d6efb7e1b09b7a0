//! The example of a sign-up form, used by a browser as a visitor would.

use std::path::Path;
use std::process::Command;

use serde_json::json;

use crate::Place;
use crate::browser::{Browser, started};

#[test]
fn a_visitor_signs_up_and_learns_of_nobody() {
    let place = Place::with(&[]);
    assert_eq!(place.run("register new guests.register").code, 0);
    assert_eq!(place.run("register withdraw guests.register gone@quarryfarm.org --forget").code, 0);
    let server = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../examples/sign-up/server.py");
    let mut command = Command::new("python3");
    command.arg(server).args(["guests.register", "--port", "0", "--program", env!("CARGO_BIN_EXE_ypogram")]);
    let Some((_server, at)) = started(command.current_dir(place.path("")), "http://127.0.0.1:") else {
        return eprintln!("skipped: no Python is here");
    };
    let Some(browser) = Browser::open() else {
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
