//! `explain` for people: the address with marks under each place a finding is about, its parts, its mailbox.

use std::fmt::Write as _;

use unicode_width::UnicodeWidthStr as _;
use ypogram_core::house_format::HouseVerdict;
use ypogram_core::names::NameOrder;
use ypogram_core::providers::Certainty;
use ypogram_core::{Examination, Form, Part, Parts, Policy, Severity, Verdict, WordOf, shown};
use ypogram_jobs::split::NameOrders;
use ypogram_jobs::{FindingOut, JudgedAddress};

use crate::render::head::JudgedBy;
use crate::render::layout::hanging;
use crate::render::{lists, style};

/// What came of holding an address against what else was asked for.
pub(crate) struct Held {
    /// The pattern that fits, where patterns were asked for.
    pub(crate) pattern: Option<Option<String>>,
    /// By the house's format for its domain, where there is one.
    pub(crate) house: Option<HouseVerdict>,
}

/// Characters in front of what is to be done about a finding.
const HELP: usize = 11;

/// All of them, one below the other.
pub(crate) fn all(
    judged: &[(JudgedAddress, Examination, Held)],
    policy: &Policy,
    orders: &NameOrders,
    by: JudgedBy<'_>,
) -> String {
    let mut out = String::new();
    let by: Vec<String> = by.parts().into_iter().chain(by.dns.map(str::to_owned)).collect();
    if !by.is_empty() {
        let _ = writeln!(out, "{}\n", style::dim(&hanging(&by.join(" · "), 0)));
    }
    let blocks: Vec<String> =
        judged.iter().map(|(judged, examined, held)| one(judged, examined, held, policy, orders)).collect();
    out + &blocks.join("\n")
}

fn one(
    judged: &JudgedAddress,
    examined: &Examination,
    held: &Held,
    policy: &Policy,
    orders: &NameOrders,
) -> String {
    let mut out = String::new();
    let verdict = match judged.verdict {
        Some(Verdict::Accept) => style::good("accepted"),
        Some(Verdict::Review) => style::doubtful("for review"),
        Some(Verdict::Reject) => style::bad("rejected"),
        None => style::dim("no address: it says that there is none"),
    };
    let _ = writeln!(out, "  {}   {verdict}", style::title(&shown(judged.as_found.as_bytes())));
    if judged.form == Form::WithinText && judged.remark.is_some() {
        let address = judged.address.as_deref().unwrap_or("one");
        let _ = writeln!(
            out,
            "  {}",
            style::dim(&format!("text that holds an address: {}", shown(address.as_bytes())))
        );
    }
    for (number, finding) in judged.findings.iter().enumerate() {
        let mark = marks(&judged.as_found, finding) + &format!(" {}", number + 1);
        let _ = writeln!(out, "  {}", in_colour_of(finding.severity, &mark));
    }
    for (number, finding) in judged.findings.iter().enumerate() {
        let info = finding.code.info();
        let severity = in_colour_of(finding.severity, &format!("{:<6}", finding.severity.word()));
        let message = format!("{}: {}", finding.code.name(), shown(finding.message.as_bytes()));
        let _ = writeln!(out, "  {} {severity} {}", number + 1, hanging(&message, HELP));
        let standard = if info.standard.is_empty() { String::new() } else { format!(" ({})", info.standard) };
        let help = hanging(&format!("{}{standard}", info.help), HELP);
        let _ = writeln!(out, "{}{}", " ".repeat(HELP), style::dim(&help));
    }
    let mut rows = rows(judged, examined, policy, orders);
    rows.extend(rows_of(held));
    if !rows.is_empty() {
        out.push('\n');
    }
    for (word, value) in rows {
        let _ = writeln!(out, "  {word:<16} {}", hanging(&shown(value.as_bytes()), 19));
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

/// What fits of patterns and the house's format, and what the address should be.
fn rows_of(held: &Held) -> Vec<(&'static str, String)> {
    let mut rows = Vec::new();
    if let Some(pattern) = &held.pattern {
        rows.push(("pattern", pattern.clone().unwrap_or_else(|| "none fits".to_owned())));
    }
    if let Some(house) = &held.house {
        rows.push(("house format", house.words()));
        rows.extend(house.proposal.clone().map(|proposal| ("it would be", proposal)));
    }
    rows
}

fn rows(
    judged: &JudgedAddress,
    examined: &Examination,
    policy: &Policy,
    orders: &NameOrders,
) -> Vec<(&'static str, String)> {
    let mut rows = Vec::new();
    if let Some(suggestion) = &judged.suggestion {
        let how =
            format!("{}   ({}: {})", suggestion.address, suggestion.confidence.word(), suggestion.reason);
        rows.push(("did you mean", how));
    }
    let (Some(address), Some(parts)) = (&judged.address, examined.parts(policy)) else { return rows };
    let repairs: Vec<&str> = judged.repairs.iter().map(|repair| repair.name()).collect();
    let repaired =
        if repairs.is_empty() { String::new() } else { format!("   (repaired: {})", repairs.join(" ")) };
    rows.push(("standard form", format!("{address}{repaired}")));
    if let Some(dns) = &judged.dns {
        rows.push(("DNS", dns.sentence.clone()));
        rows.extend(dns.hosted_by.clone().map(|host| ("hosted by", host)));
    }
    rows.extend(parts_of(&parts, orders.at(parts.domain())));
    if let Some(class) = judged.class {
        let operator = judged.operator.name();
        let by = match (judged.certainty, operator) {
            (Some(Certainty::Listed), _) => "   (listed; it can have changed hands)".to_owned(),
            (_, "") => String::new(),
            (_, operator) => format!("   (run by {operator})"),
        };
        rows.push(("class", format!("{}{by}", policy.words.label(WordOf::Class, class.word()))));
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

/// The parts that the address has, the name that it shows last. What says the same as another part is left out.
fn parts_of(parts: &Parts<'_>, order: NameOrder) -> Vec<(&'static str, String)> {
    let text = |part: Part| parts.text(part, order);
    let mut rows: Vec<(&'static str, String)> = Vec::new();
    let tagged = !text(Part::Tag).is_empty();
    let in_other_letters = text(Part::UnicodeDomain) != text(Part::AsciiDomain);
    for &part in Part::ALL {
        let told = match part {
            Part::Base | Part::Tag => tagged,
            Part::UnicodeDomain => in_other_letters,
            // The domain itself, and what is reported in one line.
            Part::AsciiDomain | Part::Labels => false,
            part => !part.is_of_name(),
        };
        let value = text(part);
        if told && !value.is_empty() {
            rows.push((part.name(), value));
        }
    }
    let confidence = text(Part::NameConfidence);
    if confidence != "none" {
        let name = [Part::FirstName, Part::MiddleName, Part::LastName].map(text);
        let name: Vec<&str> = name.iter().map(String::as_str).filter(|word| !word.is_empty()).collect();
        rows.push(("name", format!("{}   ({confidence})", name.join(" "))));
    }
    rows
}
