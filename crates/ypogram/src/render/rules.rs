//! The table of findings, and how patterns fare.

use std::fmt::Write as _;
use std::path::Path;

use comfy_table::{ContentArrangement, Table, presets};
use ypogram_core::{Code, Kind, Pattern, Policy, WordOf, Words, shown};

use crate::render::style;

/// Every finding with the severity in force, by kind.
pub(crate) fn table(policy: &Policy, rulebook: Option<&Path>) -> String {
    let mut out = String::new();
    let by = rulebook
        .map_or_else(|| "the defaults".to_owned(), |path| format!("{} over the defaults", path.display()));
    let _ =
        writeln!(out, "{} {}", style::title("Findings and their severities"), style::dim(&format!("({by})")));
    for kind in Kind::ALL {
        let _ = writeln!(out, "\n{}", style::title(policy.words.label(WordOf::Kind, kind.word())));
        let mut table = Table::new();
        table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
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
        style::dim("* changed by the rulebook.  What to do about one: ypogram rules CODE")
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

/// Whether a value fits, and if not how far it does.
pub(crate) fn tried(value: &str, fitting: Option<&Pattern>, patterns: &[&Pattern], words: &Words) -> String {
    let told = shown(value.as_bytes());
    if let Some(pattern) = fitting {
        return format!("{} {told}  {}\n", style::good("fits  "), pattern.name);
    }
    let mut out = format!("{} {told}\n", style::bad("misses"));
    for pattern in patterns {
        let upto = pattern.fits_up_to(value.as_bytes());
        let upto = (0..=upto).rev().find(|&at| value.is_char_boundary(at)).unwrap_or(0);
        let how_far = match (upto, upto == value.len()) {
            (_, true) => "fits as far as it goes; something is missing at the end".to_owned(),
            (0, _) => "does not fit from the start".to_owned(),
            (upto, _) => format!(
                "fits up to ‘{}’, not ‘{}’",
                shown(&value.as_bytes()[..upto]),
                shown(&value.as_bytes()[upto..])
            ),
        };
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
