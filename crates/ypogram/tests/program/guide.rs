//! The guide and the README: what stands in them is what the program says. Each page is a shell session in a folder with the demo's files, in the
//! order of its blocks; with `YPOGRAM_UPDATE=1` the outputs are written anew.

use std::path::{Path, PathBuf};
use std::process::Command;

use crate::Place;

/// The mark of a block that is run.
const OPEN: &str = "```console";

/// The pages with blocks that are run.
fn pages() -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let guide = std::fs::read_dir(root.join("docs/guide")).unwrap().map(|entry| entry.unwrap().path());
    let mut pages: Vec<PathBuf> =
        guide.filter(|path| path.extension().is_some_and(|ending| ending == "md")).collect();
    pages.push(root.join("README.md"));
    // The examples of JSON are answered by jq, where it is installed.
    match Command::new("jq").arg("--version").output() {
        Ok(_) => pages.push(root.join("docs/json.md")),
        Err(_) => eprintln!("docs/json.md is not tried: jq is not installed"),
    }
    pages.sort();
    pages
}

/// What a shell shows for `command`; the program's name is the program that is tested.
fn shown(place: &Place, command: &str) -> String {
    let program = Path::new(env!("CARGO_BIN_EXE_ypogram"));
    let path = format!("{}:{}", program.parent().unwrap().display(), std::env::var("PATH").unwrap());
    let output = Command::new("sh")
        .args(["-c", &format!("{{ {command}\n}} 2>&1")])
        .current_dir(place.path(""))
        .env("PATH", path)
        .env("COLUMNS", "100")
        .output()
        .unwrap();
    let folder = format!("{}/", place.path("").canonicalize().unwrap().display());
    let text = String::from_utf8(output.stdout).unwrap().replace(&folder, "");
    // What is said to somebody who sends the view of groups elsewhere; whoever follows the guide looks at it.
    let seen = text.lines().filter(|line| !line.starts_with("ypogram: this is the view of the groups"));
    seen.map(|line| line.trim_end().to_owned() + "\n").collect()
}

/// The page with the outputs that the program gives now.
fn run(page: &str, place: &Place) -> String {
    let (mut written, mut lines) = (String::new(), page.lines().peekable());
    while let Some(line) = lines.next() {
        written.push_str(line);
        written.push('\n');
        if line != OPEN {
            continue;
        }
        while let Some(line) = lines.next_if(|line| *line != "```") {
            let Some(mut command) = line.strip_prefix("$ ").map(str::to_owned) else { continue };
            written.push_str(&format!("$ {command}\n"));
            // A command goes on where its line ends with a backslash.
            while command.ends_with('\\') {
                let more = lines.next().expect("the command goes on");
                written.push_str(&format!("{more}\n"));
                command = format!("{}{}", command.trim_end_matches('\\'), more.trim_start_matches("> "));
            }
            written.push_str(&shown(place, &command));
        }
    }
    written
}

#[test]
fn every_page_shows_what_the_program_says() {
    let update = std::env::var_os("YPOGRAM_UPDATE").is_some();
    let mut blocks = 0;
    for path in pages() {
        let page = std::fs::read_to_string(&path).unwrap();
        blocks += page.matches(OPEN).count();
        let now = run(&page, &Place::with_demo());
        if update && now != page {
            std::fs::write(&path, &now).unwrap();
            continue;
        }
        let differs = page.lines().zip(now.lines()).position(|(was, is)| was != is);
        let at = differs.unwrap_or_else(|| page.lines().count().min(now.lines().count()));
        assert!(
            page == now,
            "{}, line {}: it is ‘{}’ now; YPOGRAM_UPDATE=1 writes it",
            path.display(),
            at + 1,
            now.lines().nth(at).unwrap_or_default()
        );
    }
    assert!(blocks > 20, "{blocks} blocks were found");
}

/// What a page links to in this folder is there.
#[test]
fn links_lead_somewhere() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut folders = vec![root.clone()];
    let (mut links, mut broken) = (0, Vec::new());
    while let Some(folder) = folders.pop() {
        for path in std::fs::read_dir(&folder).unwrap().map(|entry| entry.unwrap().path()) {
            let name = path.file_name().unwrap().to_string_lossy().into_owned();
            if path.is_dir() && !name.starts_with('.') && name != "target" {
                folders.push(path);
            } else if name.ends_with(".md") {
                let text = std::fs::read_to_string(&path).unwrap();
                for target in text.split("](").skip(1).filter_map(|behind| behind.split(')').next()) {
                    let file = target.split('#').next().unwrap_or_default();
                    if file.is_empty() || target.contains("://") || file.contains(' ') {
                        continue;
                    }
                    links += 1;
                    if !folder.join(file).exists() {
                        broken.push(format!("{}: {target}", path.display()));
                    }
                }
            }
        }
    }
    assert!(broken.is_empty() && links > 80, "{links} links, of which these lead nowhere: {broken:#?}");
}
