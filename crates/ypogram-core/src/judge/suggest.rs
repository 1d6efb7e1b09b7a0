//! What was probably meant. Only ever a suggestion: shown where it would be accepted, never applied on its own.

use std::borrow::Cow;

use serde::Serialize;
use smallvec::{SmallVec, smallvec};

use crate::characters::decoded;
use crate::characters::labels::Labels;
use crate::data::providers;
use crate::judge::examine::examine;
use crate::judge::facts;
use crate::judge::local_traits;
use crate::judge::own_names;
use crate::judge::typos;
use crate::model::codes::{Code, CodeSet};
use crate::model::found::Found;
use crate::model::severity::Verdict;
use crate::policy::job_policy::Policy;

/// How sure a suggestion is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Confidence {
    /// There may be other readings.
    Likely,
    /// Hardly anything else can have been meant.
    Sure,
}

impl Confidence {
    /// The word in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Confidence::Likely => "likely",
            Confidence::Sure => "sure",
        }
    }
}

/// What was probably meant.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Suggestion {
    /// The address in standard form.
    pub address: String,
    /// What was changed.
    pub reason: String,
    /// How sure it is.
    pub confidence: Confidence,
}

/// What was probably meant by `text`, whose findings are `codes`; none where nothing leads to an acceptable address.
///
/// ```
/// use ypogram_core::{Policy, examine, suggest};
/// let policy = Policy::default();
/// let text = b"night.owl@gmial,com";
/// let codes = examine(text, &policy).codes;
/// assert_eq!(suggest(text, codes, &policy).unwrap().address, "night.owl@gmail.com");
/// ```
pub fn suggest(text: &[u8], codes: CodeSet, policy: &Policy) -> Option<Suggestion> {
    suggest_by(text, codes, policy, |draft| accepted(draft, policy))
}

/// The same, where `accepted` gives the standard form of a draft that is accepted.
pub(crate) fn suggest_by(
    text: &[u8],
    codes: CodeSet,
    policy: &Policy,
    accepted: impl FnMut(&[u8]) -> Option<String>,
) -> Option<Suggestion> {
    let (draft, address) = meant_by(text, codes, policy, accepted)?;
    Some(draft.suggestion(address))
}

/// The draft that is taken for what was meant, and what `accepted` gave for it: its standard form, or whatever that is.
pub(crate) fn meant_by<'t, T>(
    text: &'t [u8],
    codes: CodeSet,
    policy: &Policy,
    mut accepted: impl FnMut(&[u8]) -> Option<T>,
) -> Option<(Draft<'t>, T)> {
    // What stands in apostrophes has several readings.
    let in_apostrophes = codes.contains(Code::BrokenAddress) && text.starts_with(b"'");
    if !codes.meets(mendable(policy)) || text.len() > 400 || in_apostrophes {
        return None;
    }
    let text = std::str::from_utf8(text).ok()?;
    let trimmed = text.trim();
    let as_it_is = Draft { text: trimmed.into(), reasons: SmallVec::new(), confidence: Confidence::Sure };
    let mut suggested = |draft: &Draft<'_>| match draft.text == text {
        true => None,
        false => accepted(draft.text.as_bytes()),
    };
    if trimmed.len() < text.len()
        && let Some(meant) = suggested(&as_it_is)
    {
        return Some((as_it_is, meant));
    }
    if let Some(restored) = as_it_is.restored(codes)
        && let Some(meant) = suggested(&restored)
    {
        return Some((restored, meant));
    }
    if let Some(own) = as_it_is.with_own_name(policy)
        && let Some(meant) = suggested(&own)
    {
        return Some((own, meant));
    }
    let last = as_it_is.mended();
    let is_mended = !last.reasons.is_empty();
    if is_mended && let Some(meant) = suggested(&last) {
        return Some((last, meant));
    }
    let mut if_suggested = |draft: Draft<'t>| suggested(&draft).map(|meant| (draft, meant));
    // A slip is looked for in the text as it is as well.
    let of_slip = |draft: &Draft<'t>| draft.without_slip(policy);
    let from_text = if is_mended { of_slip(&as_it_is) } else { None };
    from_text
        .and_then(&mut if_suggested)
        .or_else(|| of_slip(&last).and_then(&mut if_suggested))
        .or_else(|| last.with_missing_dot().and_then(&mut if_suggested))
        .or_else(|| last.with_missing_at().and_then(&mut if_suggested))
}

/// The standard form of `draft`, where it is accepted.
fn accepted(draft: &[u8], policy: &Policy) -> Option<String> {
    let examined = examine(draft, policy);
    Some(examined.standard.filter(|_| examined.verdict == Verdict::Accept)?.address)
}

/// What was probably meant by an address found in a cell, whose findings are `codes`: what follows from what stands beside it,
/// else what a change of its spelling gives.
///
/// ```
/// use ypogram_core::{Policy, cell, suggest_found};
/// let (mut found, policy) = (Vec::new(), Policy::default());
/// cell::read(b"old@fernhollow.org -> new@fernhollow.org", &policy, &mut found);
/// assert_eq!(suggest_found(&found[0], found[0].codes, &policy).unwrap().address, "new@fernhollow.org");
/// ```
pub fn suggest_found(found: &Found<'_>, codes: CodeSet, policy: &Policy) -> Option<Suggestion> {
    let Some(meant) = &found.meant else { return suggest(&found.text, codes, policy) };
    let address = accepted(&meant.text, policy)?;
    Some(Suggestion { address, reason: meant.reason.to_owned(), confidence: Confidence::Likely })
}

/// The findings that a change of spelling can mend; [`suggest`] has nothing to say of others.
pub fn mendable(policy: &Policy) -> CodeSet {
    const SPELLING: &[Code] = &[
        Code::NoAtSign,
        Code::SeveralAtSigns,
        Code::DotAtEdge,
        Code::DoubleDot,
        Code::SpaceInside,
        Code::CharacterNotAllowed,
        Code::ControlCharacter,
        Code::UnbalancedQuote,
        Code::EmptyLabel,
        Code::TrailingDot,
        Code::HyphenAtEdge,
        Code::UnderscoreInDomain,
        Code::DomainCharacter,
        Code::OneLabelDomain,
        Code::UnknownTld,
        Code::PublicSuffix,
        Code::TypingSlip,
        Code::NotHtmlAddress,
        Code::BrokenAddress,
        Code::Replaced,
        Code::WordBeside,
        Code::Residue,
        Code::Mojibake,
        Code::Relayed,
        Code::FormulaLike,
        Code::OddBeginning,
    ];
    // A reserved name may be a slip of one's own.
    let own = if policy.has_own_names() { &[Code::ReservedName][..] } else { &[] };
    CodeSet::of(SPELLING).union(CodeSet::of(own))
}

/// What was probably meant, before it is known to be acceptable.
#[derive(Clone)]
pub(crate) struct Draft<'t> {
    text: Cow<'t, str>,
    reasons: SmallVec<[&'static str; 4]>,
    confidence: Confidence,
}

/// What `change` makes of the text, where that is another. A part of the text that is as long as the text is the text.
fn changed<'t>(
    text: &Cow<'t, str>,
    change: impl for<'a> FnOnce(&'a str) -> Cow<'a, str>,
) -> Option<Cow<'t, str>> {
    let other = match text {
        Cow::Borrowed(text) => change(text),
        Cow::Owned(text) => match change(text) {
            Cow::Borrowed(part) if part.len() == text.len() => return None,
            other => other.into_owned().into(),
        },
    };
    match other {
        Cow::Borrowed(part) if part.len() == text.len() => None,
        other => (other != *text).then_some(other),
    }
}

impl<'t> Draft<'t> {
    fn suggestion(&self, address: String) -> Suggestion {
        Suggestion { address, reason: self.reasons.join(", "), confidence: self.confidence }
    }

    fn change(
        &mut self,
        change: impl for<'a> FnOnce(&'a str) -> Cow<'a, str>,
        reason: &'static str,
        confidence: Confidence,
    ) {
        if let Some(text) = changed(&self.text, change) {
            self.text = text;
            self.reasons.push(reason);
            self.confidence = self.confidence.min(confidence);
        }
    }

    /// As it was before it was encoded, scrambled, relayed or taken for a formula.
    fn restored(&self, codes: CodeSet) -> Option<Self> {
        let (local, domain) = cut_at_first(&self.text)?;
        let without_sign = || local.trim_start_matches(['=', '+', '-', '\'', '/']);
        let (text, reason) = if codes.contains(Code::Mojibake) {
            (
                local_traits::unscrambled(&self.text)?,
                "characters were read in the encoding they were written in",
            )
        } else if codes.contains(Code::Relayed) {
            let meant = local_traits::relay_meant(local.as_bytes())?;
            (String::from_utf8(meant).ok()?, "the host that passed it on was removed")
        } else if codes.contains(Code::Residue) {
            let once = local_traits::once(domain.as_bytes()).unwrap_or(domain.as_bytes());
            let local = without_residue(local)?;
            (
                format!("{local}@{}", std::str::from_utf8(once).ok()?),
                "what was left of an encoding or stood twice was removed",
            )
        } else if codes.meets(CodeSet::of(&[Code::FormulaLike, Code::OddBeginning])) {
            (format!("{}@{domain}", without_sign()), "the sign in front was removed")
        } else {
            return None;
        };
        Some(Draft { text: text.into(), reasons: smallvec![reason], confidence: Confidence::Likely })
    }

    /// With everything mended that stands in the way of an address.
    fn mended(&self) -> Self {
        use Confidence::{Likely, Sure};
        let mut draft = self.clone();
        draft.change(without_scheme, "what stood in front was removed", Sure);
        draft.change(with_written_at, "the @ took the place of the word for it", Likely);
        draft.change(with_straight_apostrophe, "a straight apostrophe took the place of a curly one", Likely);
        let edges = |c: char| {
            matches!(c, '.' | ',' | ';' | ':' | '!' | '?' | '<' | '>' | '(' | ')' | '"' | '\'' | '[' | ']')
        };
        draft.change(|text| text.trim_matches(edges).into(), "the signs around it were removed", Sure);
        draft.change(with_single_at, "one @ of two was removed", Sure);
        let Some((local, domain)) = cut_at_first(&draft.text) else { return draft };
        let mut reasons: SmallVec<[_; 4]> = SmallVec::new();
        let (mut new_local, mut new_domain) = (Cow::Borrowed(local), Cow::Borrowed(domain));
        if let Some(mended) = changed(&new_local, with_local_mended) {
            new_local = mended;
            reasons.push(if local.contains(' ') {
                "the space inside was removed"
            } else {
                "a dot was removed"
            });
        }
        for (change, reason) in [
            (without_web as fn(&str) -> Cow<'_, str>, "www. was removed"),
            (domain_with_dots, what_is_done_for_dots(domain)),
            (without_doubled_tld, "the top-level domain that stood twice was removed"),
        ] {
            if let Some(domain) = changed(&new_domain, change) {
                reasons.push(reason);
                new_domain = domain;
            }
        }
        if !reasons.is_empty() {
            draft.text = [&*new_local, "@", &*new_domain].concat().into();
            draft.reasons.extend(reasons);
            draft.confidence = Likely;
        }
        draft
    }

    /// With the domain that was probably meant, where this one looks mistyped.
    fn without_slip(&self, policy: &Policy) -> Option<Self> {
        let (local, domain) = cut_at_first(&self.text)?;
        let domain = in_lower_case(domain);
        if providers::find(domain.as_bytes()).is_some() {
            return None;
        }
        let labels = Labels::of(domain.as_bytes());
        let has_known_tld = || facts::name_of(labels, policy).has_known_tld(domain.as_bytes());
        let meant = typos::of(domain.as_bytes(), has_known_tld, policy)?;
        let mut draft = self.clone();
        let confidence = if meant.sure { Confidence::Sure } else { Confidence::Likely };
        draft.change(|_| format!("{local}@{}", meant.domain).into(), meant.reason, confidence);
        Some(draft)
    }

    /// With the domain of one's own that was probably meant.
    fn with_own_name(&self, policy: &Policy) -> Option<Self> {
        let (local, domain) = cut_at_first(&self.text)?;
        let meant = own_names::meant(in_lower_case(domain).as_bytes(), policy)?;
        let mut draft = self.clone();
        draft.change(|_| format!("{local}@{}", meant.domain).into(), meant.reason, Confidence::Likely);
        Some(draft)
    }

    /// `ada@gmailcom`: with the dot before a TLD, where a known provider comes out.
    fn with_missing_dot(&self) -> Option<Self> {
        let (local, domain) = cut_at_first(&self.text)?;
        if memchr::memchr(b'.', domain.as_bytes()).is_some() {
            return None;
        }
        let domain = in_lower_case(domain);
        // The dot wanders from the front to the back.
        let mut dotted = [b".", domain.as_bytes()].concat();
        let known = (1..domain.len()).find(|&at| {
            dotted.swap(at - 1, at);
            providers::find_own(&dotted).is_some()
        })?;
        let known = format!("{}.{}", &domain[..known], &domain[known..]);
        let mut draft = self.clone();
        draft.change(
            |_| format!("{local}@{known}").into(),
            "the dot before the top-level domain was put in",
            Confidence::Sure,
        );
        Some(draft)
    }

    /// `adagmail.com`: with the @ before a known provider, the longest that fits.
    fn with_missing_at(&self) -> Option<Self> {
        let text = &*self.text;
        let all_graphic = || text.bytes().all(|b| b.is_ascii_graphic());
        if memchr::memchr(b'@', text.as_bytes()).is_some()
            || !all_graphic() && text.contains(char::is_whitespace)
        {
            return None;
        }
        let lower = in_lower_case(text);
        // A provider has a dot in it.
        let last_dot = memchr::memrchr(b'.', lower.as_bytes())?;
        let at = (2..last_dot).find(|&at| providers::find_own(&lower.as_bytes()[at..]).is_some())?;
        let local = self.text[..at].trim_end_matches(['.', '_', '-', '#', '=', '*']);
        let mut draft = self.clone();
        draft.change(
            |_| format!("{local}@{}", &lower[at..]).into(),
            "the missing @ was put in",
            Confidence::Likely,
        );
        Some(draft)
    }
}

/// A local part without its percent-encoding and what is left of character references; spaces that come out at its ends go.
fn without_residue(local: &str) -> Option<String> {
    let decoded = decoded::undo_percent(local.as_bytes(), 0).text;
    let mut text = String::from_utf8(decoded).ok()?;
    for name in local_traits::entity_names() {
        let name = std::str::from_utf8(name).expect("ASCII");
        text = text.replace(&format!("{name};"), "").replace(name, "");
    }
    Some(text.trim().to_owned())
}

/// What makes a domain of this text.
fn what_is_done_for_dots(domain: &str) -> &'static str {
    if domain.contains([',', ';', '_']) {
        return "another sign became a dot";
    }
    match domain.contains(char::is_whitespace) {
        true if domain.contains('.') => "the space inside was removed",
        true => "the space became a dot",
        false if domain.contains("..") || domain.starts_with('.') || domain.ends_with('.') => {
            "a dot was removed"
        }
        false => "the hyphen at an edge was removed",
    }
}

/// The text with its ASCII letters in lower case.
fn in_lower_case(text: &str) -> Cow<'_, str> {
    match text.bytes().any(|b| b.is_ascii_uppercase()) {
        true => text.to_ascii_lowercase().into(),
        false => text.into(),
    }
}

/// What stands on both sides of the first @ of `text`, if there is one.
fn cut_at_first(text: &str) -> Option<(&str, &str)> {
    let at = memchr::memchr(b'@', text.as_bytes())?;
    Some((&text[..at], &text[at + 1..]))
}

/// With one @ for each two that follow one another.
fn with_single_at(text: &str) -> Cow<'_, str> {
    let is_doubled = |at: usize| text.as_bytes().get(at + 1) == Some(&b'@');
    let doubled = memchr::memchr_iter(b'@', text.as_bytes()).any(is_doubled);
    if doubled { text.replace("@@", "@").into() } else { text.into() }
}

fn with_straight_apostrophe(text: &str) -> Cow<'_, str> {
    if text.is_ascii() { text.into() } else { text.replace(['’', '‘'], "'").into() }
}

fn without_scheme(text: &str) -> Cow<'_, str> {
    if !matches!(text.as_bytes().first(), Some(b'h' | b'H' | b'm' | b'M' | b'w' | b'W')) {
        return text.into();
    }
    let prefixes = ["https://", "http://", "mailto:", "www."];
    let starts = |prefix: &&&str| text.get(..prefix.len()).is_some_and(|t| t.eq_ignore_ascii_case(prefix));
    let Some(prefix) = prefixes.iter().find(starts) else { return text.into() };
    // A path behind the host goes as well.
    text[prefix.len()..].trim_end_matches('/').into()
}

/// `ada(at)host`, `ada [at] host`, `ada at host`: with the @ where none stands.
fn with_written_at(text: &str) -> Cow<'_, str> {
    let may_hold_one = |b: u8| matches!(b, b'(' | b'[' | b'{' | b'<' | b' ');
    if memchr::memchr(b'@', text.as_bytes()).is_some() || !text.bytes().any(may_hold_one) {
        return text.into();
    }
    let lower = text.to_lowercase();
    if lower.len() != text.len() {
        return text.into();
    }
    for word in ["(at)", "[at]", "{at}", "<at>", " at "] {
        if let Some(at) = lower.find(word) {
            // Its letter case does not count.
            let domain = lower[at + word.len()..].trim();
            let domain =
                ["(dot)", "[dot]", " dot "].iter().fold(domain.to_owned(), |d, dot| d.replace(dot, "."));
            return format!("{}@{domain}", text[..at].trim()).into();
        }
    }
    text.into()
}

/// Without dots and spaces at its ends, doubled dots and spaces inside.
fn with_local_mended(local: &str) -> Cow<'_, str> {
    let bare = local.trim_matches(['.', ' ']);
    let is_doubled = |two: &[u8]| two == b"..";
    if memchr::memchr(b' ', bare.as_bytes()).is_none() && !bare.as_bytes().windows(2).any(is_doubled) {
        return bare.into();
    }
    let mut before = ' ';
    let stays = |c: &char| (std::mem::replace(&mut before, *c), *c) != ('.', '.') && *c != ' ';
    bare.chars().filter(stays).collect::<String>().into()
}

fn without_web(domain: &str) -> Cow<'_, str> {
    domain.strip_prefix("www.").unwrap_or(domain).into()
}

/// Commas, semicolons, underscores and spaces in a domain become the dot that was meant.
fn domain_with_dots(domain: &str) -> Cow<'_, str> {
    if Labels::of(domain.as_bytes()).is_plain() {
        return domain.into();
    }
    let is_dot = |c: char| matches!(c, '.' | ',' | ';' | '_');
    let is_usual = |b: u8| b.is_ascii_alphanumeric() || matches!(b, b'-' | b'.');
    let stands_for_dot = |c: char| c != '.' && (is_dot(c) || c.is_whitespace());
    if domain.bytes().all(is_usual) || !domain.contains(stands_for_dot) {
        return if are_in_order(domain) { domain.into() } else { labels_of(domain).into() };
    }
    // Where there is a dot, spaces are none; one may be written out.
    let domain = &*domain.replace(" dot ", ".").replace(" DOT ", ".");
    let has_dot = domain.contains(is_dot);
    let mut dotted = String::with_capacity(domain.len());
    for c in domain.chars() {
        match c {
            c if is_dot(c) => dotted.push('.'),
            c if !c.is_whitespace() => dotted.push(c),
            _ if has_dot => {}
            _ => dotted.push('.'),
        }
    }
    labels_of(&dotted).into()
}

/// Whether all labels are there, without hyphens around them.
fn are_in_order(domain: &str) -> bool {
    let mut before = b'.';
    let mut fits = |b: u8| {
        let pair = (std::mem::replace(&mut before, b), b);
        !matches!(pair, (b'.', b'.' | b'-') | (b'-', b'.'))
    };
    domain.bytes().all(&mut fits) && fits(b'.')
}

/// The labels that have something else than hyphens, without hyphens around them.
fn labels_of(domain: &str) -> String {
    let mut labels = String::with_capacity(domain.len());
    for label in domain.split('.').map(|label| label.trim_matches('-')).filter(|label| !label.is_empty()) {
        if !labels.is_empty() {
            labels.push('.');
        }
        labels.push_str(label);
    }
    labels
}

fn without_doubled_tld(domain: &str) -> Cow<'_, str> {
    let mut once = domain;
    while let Some(dot) = memchr::memrchr(b'.', once.as_bytes()) {
        let (before, tld) = once.split_at(dot);
        if before.strip_suffix(tld).is_none() {
            break;
        }
        once = before;
    }
    once.into()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_mended_and_what_stays() {
        let local = with_local_mended as fn(&str) -> Cow<'_, str>;
        for (change, text, mended) in [
            (with_single_at as fn(&str) -> Cow<'_, str>, "ada@h@@web.de", "ada@h@web.de"),
            (with_single_at, "ada@@@web.de", "ada@@web.de"),
            (with_single_at, "ada@x@web.de", "ada@x@web.de"),
            (local, ".ada. lovell..", "ada.lovell"),
            (local, "ada...lov ell", "ada.lovell"),
            (local, "ada. .lovell", "ada..lovell"),
            (local, "ada.löv-ell", "ada.löv-ell"),
            (domain_with_dots, "web de", "web.de"),
            (domain_with_dots, "web. de ", "web.de"),
            (domain_with_dots, "mail web . de", "mailweb.de"),
            (domain_with_dots, "mail,web;de_", "mail.web.de"),
            (domain_with_dots, "-mail..web-.de.", "mail.web.de"),
            (domain_with_dots, "mail\u{a0}web\tde", "mail.web.de"),
            (domain_with_dots, "bücher.de", "bücher.de"),
            (domain_with_dots, "bücher..de", "bücher.de"),
            (domain_with_dots, " . -", ""),
            (without_doubled_tld, "web.de.de.de", "web.de"),
            (without_doubled_tld, "com.com", "com.com"),
            (without_doubled_tld, "web.code.de", "web.code.de"),
            (with_written_at, "ada (at) web [dot] de", "ada@web . de"),
            (with_written_at, "ada@web.de (at work)", "ada@web.de (at work)"),
            (without_scheme, "MAILTO:ada@web.de", "ada@web.de"),
            (without_scheme, "hans@web.de", "hans@web.de"),
        ] {
            assert_eq!(change(text), mended, "{text:?}");
        }
    }
}
