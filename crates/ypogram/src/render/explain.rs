//! `explain` for people: the address with marks under each place a finding is about, its parts, its mailbox.

use std::fmt::Write as _;

use unicode_width::UnicodeWidthStr as _;
use ypogram_core::{Examined, Policy, Severity, Verdict, shown};
use ypogram_jobs::{FindingOut, JudgedAddress};

use crate::render::head::JudgedBy;
use crate::render::{lists, style};

/// All of them, one below the other.
pub(crate) fn all(judged: &[(JudgedAddress, Examined)], policy: &Policy, by: JudgedBy<'_>) -> String {
    let mut out = String::new();
    let by = by.parts();
    if !by.is_empty() {
        let _ = writeln!(out, "{}\n", style::dim(&by.join(" · ")));
    }
    let blocks: Vec<String> = judged.iter().map(|(judged, examined)| one(judged, examined, policy)).collect();
    out + &blocks.join("\n")
}

fn one(judged: &JudgedAddress, examined: &Examined, policy: &Policy) -> String {
    let mut out = String::new();
    let verdict = match judged.verdict {
        Verdict::Accept => style::good("accepted"),
        Verdict::Review => style::doubtful("for review"),
        Verdict::Reject => style::bad("rejected"),
    };
    let _ = writeln!(out, "  {}   {verdict}", style::title(&shown(judged.as_found.as_bytes())));
    for (number, finding) in judged.findings.iter().enumerate() {
        let mark = marks(&judged.as_found, finding) + &format!(" {}", number + 1);
        let _ = writeln!(out, "  {}", in_colour_of(finding.severity, &mark));
    }
    for (number, finding) in judged.findings.iter().enumerate() {
        let info = finding.code.info();
        let severity = in_colour_of(finding.severity, &format!("{:<6}", finding.severity.word()));
        let _ = writeln!(
            out,
            "  {} {severity} {}: {}",
            number + 1,
            finding.code.name(),
            shown(finding.message.as_bytes())
        );
        let standard = if info.standard.is_empty() { String::new() } else { format!(" ({})", info.standard) };
        let _ = writeln!(out, "           {}", style::dim(&format!("{}{standard}", info.help)));
    }
    let rows = rows(judged, examined, policy);
    if !rows.is_empty() {
        out.push('\n');
    }
    for (word, value) in rows {
        let _ = writeln!(out, "  {word:<16} {}", shown(value.as_bytes()));
    }
    out
}

/// Carets under the bytes that a finding is about, counted in columns of the terminal.
fn marks(as_found: &str, finding: &FindingOut) -> String {
    let boundary =
        |at: usize| (0..=at.min(as_found.len())).rev().find(|&at| as_found.is_char_boundary(at)).unwrap_or(0);
    let (start, end) = (boundary(finding.start), boundary(finding.end));
    let columns = |text: &str| shown(text.as_bytes()).width();
    let before = columns(&as_found[..start]);
    " ".repeat(before) + &"^".repeat(columns(&as_found[start..end]).max(1))
}

fn in_colour_of(severity: Severity, text: &str) -> String {
    match severity {
        Severity::Reject => style::bad(text),
        Severity::Review => style::doubtful(text),
        Severity::Note | Severity::Off => style::dim(text),
    }
}

fn rows(judged: &JudgedAddress, examined: &Examined, policy: &Policy) -> Vec<(&'static str, String)> {
    let mut rows = Vec::new();
    if let Some(suggestion) = &judged.suggestion {
        let how =
            format!("{}   ({}: {})", suggestion.address, suggestion.confidence.word(), suggestion.reason);
        rows.push(("did you mean", how));
    }
    let (Some(address), Some((ascii, unicode))) = (&judged.address, examined.domain_forms()) else {
        return rows;
    };
    let repairs: Vec<&str> = judged.repairs.iter().map(|repair| repair.name()).collect();
    let repaired =
        if repairs.is_empty() { String::new() } else { format!("   (repaired: {})", repairs.join(" ")) };
    rows.push(("standard form", format!("{address}{repaired}")));
    rows.push(("local part", judged.local_part.clone().unwrap_or_default()));
    if let Some(tag) = examined.tag(policy) {
        rows.push(("tag", tag.to_owned()));
    }
    rows.push((
        "domain",
        if ascii == unicode { ascii.clone() } else { format!("{ascii}   (in its own letters: {unicode})") },
    ));
    let (suffix, registrable) = examined.suffix_and_registrable();
    if let Some(start) = registrable {
        rows.push(("registrable", ascii[start..].to_owned()));
    }
    if let Some(start) = suffix {
        rows.push(("ending", format!(".{}", &ascii[start..])));
    }
    if let Some(class) = judged.class {
        let operator = judged.operator.name();
        let by = if operator.is_empty() { String::new() } else { format!("   (run by {operator})") };
        rows.push(("class", format!("{}{by}", class.word())));
    }
    if !policy.lists.is_empty() {
        rows.extend(lists::rows(&policy.decided(examined)));
    }
    if let Some(keys) = &judged.keys {
        rows.push(("same mailbox as", String::new()));
        let in_force = |word: &str| if policy.same.word() == word { "   (in force)" } else { "" };
        for (word, label, key) in [
            ("exact", "  exact", &keys.exact),
            ("case", "  case", &keys.case),
            ("provider", "  provider", &keys.provider),
            ("everywhere", "  everywhere", &keys.everywhere),
        ] {
            rows.push((label, format!("{key}{}", in_force(word))));
        }
    }
    rows
}
