//! No file of a crate imports, over others, one that imports it.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// A module as its path in the crate.
type Module = Vec<String>;

/// The modules of a crate, with their text but for comments and tests.
fn modules(source: &Path) -> BTreeMap<Module, String> {
    let mut found = BTreeMap::new();
    let mut folders = vec![source.to_path_buf()];
    while let Some(folder) = folders.pop() {
        for path in std::fs::read_dir(&folder).unwrap().map(|entry| entry.unwrap().path()) {
            if path.is_dir() {
                folders.push(path);
            } else if path.extension().is_some_and(|ending| ending == "rs") && !path.ends_with("tests.rs") {
                found.insert(name_of(&path, source), code_of(&path));
            }
        }
    }
    found
}

fn name_of(path: &Path, source: &Path) -> Module {
    let within = path.strip_prefix(source).unwrap().with_extension("");
    let mut parts: Module = within.iter().map(|part| part.to_string_lossy().into_owned()).collect();
    if matches!(parts.last().map(String::as_str), Some("mod" | "lib" | "main")) {
        parts.pop();
    }
    parts
}

fn code_of(path: &Path) -> String {
    let text = std::fs::read_to_string(path).unwrap();
    let text = text.split("#[cfg(test)]\nmod ").next().unwrap_or_default();
    text.lines().map(|line| line.split("//").next().unwrap_or_default()).collect::<Vec<_>>().join("\n")
}

/// The paths that a tree such as `a::{b, c::{d, e}}` names.
fn paths_of(tree: &str) -> Vec<Module> {
    let tree = tree.trim();
    let Some((before, inside)) = tree.split_once('{') else {
        let path = tree.split(" as ").next().unwrap_or_default();
        return vec![path.split("::").map(|part| part.trim().to_owned()).collect()];
    };
    let start: Module =
        before.split("::").map(|part| part.trim().to_owned()).filter(|part| !part.is_empty()).collect();
    let inside = inside.trim_end().strip_suffix('}').unwrap_or(inside);
    let (mut parts, mut depth) = (vec![String::new()], 0);
    for c in inside.chars() {
        depth += i32::from(c == '{') - i32::from(c == '}');
        match c {
            ',' if depth == 0 => parts.push(String::new()),
            c => parts.last_mut().unwrap().push(c),
        }
    }
    let below = parts.iter().filter(|part| !part.trim().is_empty()).flat_map(|part| paths_of(part));
    below.map(|below| start.iter().cloned().chain(below).collect()).collect()
}

/// What follows each `use` of a text, with whether it is passed on.
fn uses(text: &str) -> Vec<(bool, Vec<Module>)> {
    let starts = text.match_indices("use ").filter(|(at, _)| {
        let before = text[..*at].rsplit('\n').next().unwrap_or_default();
        before.trim().is_empty() || before.trim_start().starts_with("pub")
    });
    starts
        .map(|(at, _)| {
            let before = text[..at].rsplit('\n').next().unwrap_or_default();
            let tree = text[at + 4..].split(';').next().unwrap_or_default();
            (before.contains("pub"), paths_of(tree))
        })
        .collect()
}

/// Paths that start with `crate::` outside of `use`.
fn paths_in_place(text: &str) -> Vec<Module> {
    let of = |(at, _): (usize, &str)| {
        let rest = &text[at..];
        let end = rest.find(|c: char| !c.is_alphanumeric() && c != '_' && c != ':').unwrap_or(rest.len());
        // What stands in front of braces is the start of a `use`.
        (!rest[..end].ends_with("::")).then(|| rest[..end].split("::").map(str::to_owned).collect())
    };
    text.match_indices("crate::").filter_map(of).collect()
}

struct Crate {
    modules: BTreeMap<Module, String>,
    /// What modules pass on under a name of theirs.
    passed_on: BTreeMap<(Module, String), Module>,
}

impl Crate {
    fn read(source: &Path) -> Self {
        let mut all = Crate { modules: modules(source), passed_on: BTreeMap::new() };
        for (module, text) in all.modules.clone() {
            for path in
                uses(&text).into_iter().filter(|(passed_on, _)| *passed_on).flat_map(|(_, paths)| paths)
            {
                if let (Some(full), Some(name)) = (all.full(&path, &module), path.last()) {
                    all.passed_on.insert((module.clone(), name.clone()), full);
                }
            }
        }
        all
    }

    /// A path as it reads from the root of the crate; none where it leads to another crate.
    fn full(&self, path: &[String], from: &Module) -> Option<Module> {
        let below = |base: &[String], rest: &[String]| Some([base, rest].concat());
        match path.first().map(String::as_str)? {
            "crate" => below(&[], &path[1..]),
            "self" => below(from, &path[1..]),
            "super" => {
                let ups = path.iter().take_while(|part| *part == "super").count();
                below(&from[..from.len().checked_sub(ups)?], &path[ups..])
            }
            _ => {
                let child = [&from[..], &path[..1]].concat();
                self.modules.contains_key(&child).then(|| [&from[..], path].concat())
            }
        }
    }

    /// The file that a path leads to, through what modules pass on.
    fn file_of(&self, path: &[String], depth: usize) -> Option<Module> {
        let longest = (0..=path.len()).rev().find(|&end| self.modules.contains_key(&path[..end]))?;
        let module = path[..longest].to_vec();
        let next = path.get(longest).and_then(|name| self.passed_on.get(&(module.clone(), name.clone())));
        match next {
            Some(next) if depth < 8 => {
                self.file_of(&[next, &path[longest + 1..]].concat(), depth + 1).or(Some(module))
            }
            _ => Some(module),
        }
    }

    /// The files that each file imports.
    fn imports(&self) -> BTreeMap<Module, BTreeSet<Module>> {
        let of = |(module, text): (&Module, &String)| {
            let used = uses(text).into_iter().flat_map(|(_, paths)| paths).chain(paths_in_place(text));
            let files = used
                .filter_map(|path| self.full(&path, module))
                .filter_map(|path| self.file_of(&path, 0))
                .filter(|file| file != module && !file.is_empty());
            (module.clone(), files.collect())
        };
        self.modules.iter().map(of).collect()
    }
}

/// A file that imports itself over others, with the way.
fn circle(imports: &BTreeMap<Module, BTreeSet<Module>>) -> Option<Vec<String>> {
    // Files whose imports are all without circles are without circles themselves.
    let mut left: BTreeMap<&Module, BTreeSet<&Module>> =
        imports.iter().map(|(file, used)| (file, used.iter().collect())).collect();
    loop {
        let settled: Vec<&Module> =
            left.iter().filter(|(_, used)| used.is_empty()).map(|(file, _)| *file).collect();
        if settled.is_empty() {
            break;
        }
        settled.iter().for_each(|file| {
            left.remove(*file);
        });
        left.values_mut().for_each(|used| used.retain(|file| !settled.contains(file)));
    }
    let mut way = vec![*left.keys().next()?];
    loop {
        let next = *left[way.last()?].iter().find(|next| left.contains_key(**next))?;
        let seen = way.iter().position(|file| *file == next);
        way.push(next);
        if let Some(start) = seen {
            return Some(way[start..].iter().map(|file| file.join("::")).collect());
        }
    }
}

#[test]
fn no_file_imports_itself_over_others() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    for name in ["ypogram-core", "ypogram-io", "ypogram-jobs", "ypogram"] {
        let source: PathBuf = crates.join(name).join("src");
        let imports = Crate::read(&source).imports();
        assert!(imports.values().map(BTreeSet::len).sum::<usize>() > 50, "{name}: the imports are read");
        assert_eq!(circle(&imports), None, "{name}: files import one another in a circle");
    }
}

/// The folders of a crate, the lowest first: none imports one behind it.
const LAYERS: [(&str, &[&str]); 3] = [
    (
        "ypogram-core",
        &[
            "model",
            "characters",
            "data",
            "redact",
            "names",
            "house_format",
            "phrases",
            "profile",
            "policy",
            "syntax",
            "judge",
            "entry_rule",
            "find",
        ],
    ),
    ("ypogram-io", &["records", "rows", "output", "input", "formats"]),
    ("ypogram-jobs", &["engine", "sql", "lists", "plan", "decisions", "duplicates", "judge", "jobs"]),
];

#[test]
fn layers_know_only_those_below() {
    for (name, layers) in LAYERS {
        let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
        let imports = Crate::read(&crates.join(name).join("src")).imports();
        let layer = |module: &Module| {
            let folder = module.first().map_or("", String::as_str);
            layers.iter().position(|layer| *layer == folder)
        };
        for (module, used) in imports.iter().filter(|(module, _)| !module.is_empty()) {
            let own = layer(module);
            let own = own.unwrap_or_else(|| panic!("{name}, {}: in no layer", module.join("::")));
            let above = used.iter().find(|used| layer(used).is_some_and(|layer| layer > own));
            assert_eq!(above, None, "{name}, {}: imports from a layer above", module.join("::"));
        }
    }
}

/// Core and tables know nothing of each other, and nobody below knows the program.
#[test]
fn crates_know_only_those_below() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    for (name, unknown) in [
        ("ypogram-bytes", &["ypogram_core", "ypogram_io", "ypogram_jobs"][..]),
        ("ypogram-core", &["ypogram_io", "ypogram_jobs"]),
        ("ypogram-io", &["ypogram_core", "ypogram_jobs"]),
        ("ypogram-jobs", &["ypogram::"]),
    ] {
        for (module, text) in modules(&crates.join(name).join("src")) {
            let known = unknown.iter().find(|unknown| text.contains(**unknown));
            assert_eq!(known, None, "{name}: {}", module.join("::"));
        }
    }
}
