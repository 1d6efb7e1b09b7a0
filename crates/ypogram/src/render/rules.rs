//! The table of findings, and how patterns fare.

use std::fmt::Write as _;
use std::path::Path;

use serde::Serialize;
use ypogram_core::ready_patterns::ReadyPattern;
use ypogram_core::{Code, Kind, Pattern, Policy, WordOf, Words, shown};

use crate::render::layout::hanging;
use crate::render::plain_table::plain_table;
use crate::render::style;

/// Every finding with the severity in force, by kind.
pub(crate) fn table(policy: &Policy, rulebook: Option<&Path>) -> String {
    let mut out = String::new();
    let by = rulebook
        .map_or_else(|| "the defaults".to_owned(), |path| format!("{} over the defaults", path.display()));
    let title = "Findings and their severities";
    let by = hanging(&format!("({by})"), title.len() + 1);
    let _ = writeln!(out, "{} {}", style::title(title), style::dim(&by));
    for kind in Kind::ALL {
        let _ = writeln!(out, "\n{}", style::title(policy.words.label(WordOf::Kind, kind.word())));
        let mut table = plain_table();
        for code in Code::all().filter(|code| code.info().kind == kind) {
            let severity = policy.severity(code);
            let changed = if severity == code.info().severity { "" } else { " *" };
            table.add_row([
                &format!(" {}{changed}", severity.word()),
                code.name(),
                policy.words.sentence(code),
            ]);
        }
        let _ = writeln!(out, "{}", table.trim_fmt());
    }
    let _ = writeln!(
        out,
        "\n{}",
        style::dim(
            "* changed by the rulebook.  What to do about one: ypogram rules CODE.  Patterns: ypogram rules patterns"
        )
    );
    out
}

/// Some findings with all there is to say.
pub(crate) fn details(codes: &[Code], policy: &Policy) -> String {
    let mut out = String::new();
    for code in codes {
        let info = code.info();
        let severity = policy.severity(*code);
        let kind = policy.words.label(WordOf::Kind, info.kind.word());
        let _ = writeln!(out, "{}  {} ({kind})", style::title(info.name), severity.word());
        let _ = writeln!(out, "  {}\n  {}", policy.words.sentence(*code), info.help);
        if !info.standard.is_empty() {
            let _ = writeln!(out, "  {}", style::dim(info.standard));
        }
        let _ = writeln!(
            out,
            "  {}",
            style::dim(&format!("in the rulebook: [severity] {} = \"{}\"", info.name, severity.word()))
        );
    }
    out
}

/// A pattern as it is shown.
#[derive(Debug, Serialize)]
pub(crate) struct ShownPattern {
    name: String,
    pattern: String,
    /// It is one of the rulebook.
    own: bool,
    what: &'static str,
    source: &'static str,
    example: String,
}

impl ShownPattern {
    pub(crate) fn own(pattern: &Pattern) -> Self {
        ShownPattern {
            name: pattern.name.clone(),
            pattern: pattern.written.clone(),
            own: true,
            what: "",
            source: "the rulebook",
            example: pattern.describe().fitting.first().cloned().unwrap_or_default(),
        }
    }

    pub(crate) fn ready(ready: &ReadyPattern) -> Self {
        ShownPattern {
            name: ready.name.to_owned(),
            pattern: ready.written.to_owned(),
            own: false,
            what: ready.what,
            source: ready.source,
            example: ready.example.to_owned(),
        }
    }
}

/// The patterns of the rulebook, then the ready-made ones.
pub(crate) fn patterns(all: &[ShownPattern]) -> String {
    let mut out = String::new();
    for (own, title) in [(true, "Patterns of the rulebook"), (false, "Ready-made patterns")] {
        let mut table = plain_table();
        for pattern in all.iter().filter(|pattern| pattern.own == own) {
            match own {
                true => table.add_row([&*format!(" {}", pattern.name), &shown(pattern.pattern.as_bytes())]),
                false => table.add_row([&*format!(" {}", pattern.name), pattern.what, pattern.source]),
            };
        }
        if table.row_count() > 0 {
            let _ = writeln!(out, "{}\n{}\n", style::title(title), table.trim_fmt());
        }
    }
    out + &style::dim(
        "the pattern itself: ypogram rules patterns NAME.  In words: ypogram rules describe --pattern NAME",
    ) + "\n"
}

/// Some patterns with all there is to say.
pub(crate) fn pattern_details(all: &[ShownPattern]) -> String {
    let mut out = String::new();
    for pattern in all {
        let what = if pattern.what.is_empty() { "" } else { ", " };
        let _ = writeln!(out, "{}{what}{}", style::title(&shown(pattern.name.as_bytes())), pattern.what);
        let _ = writeln!(out, "  {}", shown(pattern.pattern.as_bytes()));
        let _ = writeln!(out, "  fits: {}", shown(pattern.example.as_bytes()));
        let _ = writeln!(out, "  {}", style::dim(&format!("source: {}", pattern.source)));
    }
    out
}

/// Whether a value fits, and if not how far it does.
pub(crate) fn tried(value: &str, fitting: Option<&Pattern>, patterns: &[&Pattern], words: &Words) -> String {
    let told = shown(value.as_bytes());
    if let Some(pattern) = fitting {
        return format!("{} {told}  {}\n", style::good("fits  "), pattern.name);
    }
    let mut out = format!("{} {told}\n", style::bad("misses"));
    for pattern in patterns {
        let how_far = pattern.miss(value.as_bytes()).sentence(value.as_bytes());
        let _ = writeln!(
            out,
            "         {}: {how_far}   {}",
            pattern.name,
            style::dim(&shown(pattern.written.as_bytes()))
        );
        if let Some(sentence) = words.own(WordOf::Pattern, &pattern.name) {
            let _ = writeln!(out, "         {}", shown(sentence.as_bytes()));
        }
    }
    out
}
