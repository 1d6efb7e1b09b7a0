//! What an address tells beyond its syntax: its domain, its local part, and the lists that speak of it.

use crate::characters::idna_form;
use crate::characters::web_prefix::starts_like_web;
use crate::data::local_words::{self, LocalWord, Role};
use crate::data::providers::Certainty;
use crate::judge::examination::Examination;
use crate::judge::facts::Fact;
use crate::judge::local_traits::{self, Folded, local_traits, rare_traits};
use crate::model::class::Class;
use crate::model::codes::Code;
use crate::model::finding::Finding;
use crate::model::severity::Kind;
use crate::model::span::Span;
use crate::policy::job_policy::Policy;
use crate::policy::lists::{Asked, EntryKind, Of, Purpose};
use unicode_security::{MixedScript, RestrictionLevel, RestrictionLevelDetection, skeleton};

pub(crate) fn read_meaning(quoted: bool, policy: &Policy, out: &mut Examination) {
    let (local, whole) = (out.local_span, Span::new(out.local_span.start, out.domain_span.end));
    let facts = out.domain.facts;
    let mut notes = Vec::new();
    if quoted {
        notes.push(Finding::plain(Code::QuotedLocalPart, local));
    }
    if !out.folded.is_ascii() {
        notes.push(Finding::plain(Code::NonAsciiLocal, local));
    }
    if let Some(most) = policy.max_length
        && let Some(standard) = &out.standard
        && standard.address.len() > most
    {
        let message = format!("The address has {} bytes; this job allows {most}.", standard.address.len());
        notes.push(Finding::told(Code::TooLongForHouse, whole, message));
    }
    if looks_alike(std::str::from_utf8(&out.folded).unwrap_or_default()) {
        notes.push(Finding::plain(Code::LookAlikeLetters, local));
    }
    let unicode = idna_form::to_unicode(&out.domain.ascii);
    if !unicode.is_ascii() && unicode.split('.').any(looks_alike) {
        notes.push(Finding::plain(Code::LookAlikeLetters, out.domain_span));
    }
    if !quoted {
        meaning_of_local(policy, out, &mut notes);
    }
    if let Some(once) = local_traits::once(out.domain.ascii.as_bytes()) {
        let message =
            format!("Its top-level domain, or all of it, stands twice: ‘{}’.", String::from_utf8_lossy(once));
        notes.push(Finding::told(Code::Residue, out.domain_span, message));
    }
    if policy.lists.is_empty() && !facts.is(Fact::Listed) {
        notes.extend(facts.codes().iter().map(|code| domain_note(code, policy, out)));
    } else {
        out.class = read_lists(policy, out, &mut notes).or(out.class);
    }
    out.findings.append(&mut notes);
}

/// What the domain and the job's own lists say; gives the class.
fn read_lists(policy: &Policy, out: &Examination, notes: &mut Vec<Finding>) -> Option<Class> {
    let facts = out.domain.facts;
    let folded = [&out.folded[..], b"@", out.domain.ascii.as_bytes()].concat();
    let mut key = Vec::new();
    if policy.lists.by_key {
        out.key_parts(policy).write(policy.same, &mut key);
    }
    let base = meaning_base(&out.folded, facts.rule, policy);
    let asked = Asked { address: &folded, at: out.folded.len(), base, key: &key };
    let mut codes = facts.codes();
    if facts.is(Fact::Listed) {
        codes = codes.union(policy.codes_of_domain(asked.domain()));
    }
    let (class, codes) = policy.lists.settle(asked, facts.class(), codes);
    for code in codes.iter() {
        notes.push(list_note(code, asked, policy, out).unwrap_or_else(|| domain_note(code, policy, out)));
    }
    class
}

/// What a list of the job's own says, with the entry and its place; none where the finding comes from elsewhere.
fn list_note(code: Code, asked: Asked<'_>, policy: &Policy, out: &Examination) -> Option<Finding> {
    let (list, entry) = policy.lists.raising(code, asked)?;
    let span = match (list.kind(entry), list.purpose.of) {
        (EntryKind::Domain { .. }, _) => out.domain_span,
        (_, Of::LocalParts) => out.local_span,
        _ => Span::new(out.local_span.start, out.domain_span.end),
    };
    let Purpose { name, from, .. } = &list.purpose;
    let (entry, line) = (list.shown(entry), list.line(entry));
    Some(Finding::told(code, span, format!("Your list ‘{name}’ has ‘{entry}’ ({from}, line {line}).")))
}

fn meaning_of_local(policy: &Policy, out: &Examination, notes: &mut Vec<Finding>) {
    let (local, folded) = (out.local_span, &out.folded[..]);
    let plus = memchr::memchr(b'+', folded).filter(|&at| at > 0);
    let (domain, facts) = (out.domain.ascii.as_bytes(), out.domain.facts);
    let traits = local_traits(Folded { text: folded, plus, signs: true }, domain, facts, policy);
    let base = traits.tag.map_or(folded, |tag| &folded[..tag]);
    let told = traits.codes().union(rare_traits(&out.written));
    notes.extend(told.iter().map(|code| local_note(code, local, base)));
}

/// What is reported about a local part for a reason of its own, with the place it is about.
fn local_note(code: Code, local: Span, base: &[u8]) -> Finding {
    let start = local.start;
    match (code, local_words::find(base)) {
        (Code::Tagged, _) => Finding::plain(code, start + base.len().min(local.len())..local.end),
        (Code::TypingSlip, _) => Finding::told(code, start..start + 4, "It starts like a web address."),
        (Code::FormulaLike | Code::OddBeginning, _) => Finding::plain(code, start..start + 1),
        (Code::RoleAccount, Some(LocalWord { role: Role::Account(purpose), .. })) => Finding::told(
            code,
            local,
            format!("The address is a role account ({purpose}) and not a person's."),
        ),
        _ => Finding::plain(code, local),
    }
}

/// The local part without its tag, as far as meaning goes: where no rule is known, a plus is taken for the separator.
#[inline]
pub(crate) fn meaning_base<'a>(folded: &'a [u8], rule: u8, policy: &Policy) -> &'a [u8] {
    if rule > 0 {
        return policy.rules[usize::from(rule)].base(folded);
    }
    match memchr::memchr(b'+', folded) {
        Some(at) if at > 0 => &folded[..at],
        _ => folded,
    }
}

fn domain_note(code: Code, policy: &Policy, out: &Examination) -> Finding {
    let operator = out.operator.name();
    let answered = || policy.dns.as_ref()?.sentence(out.domain.ascii.as_bytes());
    match code {
        _ if code.info().kind == Kind::Network => Finding::told(
            code,
            out.domain_span,
            answered().unwrap_or_else(|| code.info().sentence.to_owned()),
        ),
        Code::TypingSlip if starts_like_web(out.domain.ascii.as_bytes()) => {
            Finding::told(code, out.domain_span, "The domain is that of a web site.")
        }
        Code::TypingSlip => {
            let meant = crate::judge::typos::of(out.domain.ascii.as_bytes(), || true, policy);
            let message = meant.map_or_else(
                || code.info().sentence.to_owned(),
                |meant| format!("The domain looks like a slip of ‘{}’ ({}).", meant.domain, meant.reason),
            );
            Finding::told(code, out.domain_span, message)
        }
        Code::FreeProvider if out.domain.facts.certainty() == Certainty::Listed => Finding::told(
            code,
            out.domain_span,
            "Published lists have the domain as a free provider; it can have changed hands.",
        ),
        Code::FreeProvider | Code::IspMailbox | Code::PaidMailbox | Code::Relay | Code::Disposable
            if !operator.is_empty() =>
        {
            let sentence = code.info().sentence.trim_end_matches('.');
            Finding::told(code, out.domain_span, format!("{sentence} ({operator})."))
        }
        Code::NoReply => Finding::told(code, out.domain_span, "The domain says that nobody reads there."),
        code => Finding::plain(code, out.domain_span),
    }
}

/// Whether `text` mixes scripts in a way that misleads (UTS #39 §5.2), or is wholly of letters that pass for ASCII ones.
fn looks_alike(text: &str) -> bool {
    if text.is_ascii() {
        return false;
    }
    let mixes =
        !text.check_restriction_level(RestrictionLevel::HighlyRestrictive) && !text.is_single_script();
    let passes_for_ascii = text.chars().all(|c| !c.is_ascii_alphabetic())
        && text.chars().any(char::is_alphabetic)
        && skeleton(text).all(|c| c.is_ascii());
    mixes || passes_for_ascii
}
