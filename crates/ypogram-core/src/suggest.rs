//! What was probably meant. Only ever a suggestion: shown where it would be accepted, never applied on its own.

use serde::Serialize;

use crate::codes::{Code, CodeSet};
use crate::examine::examine;
use crate::learnt::Learnt;
use crate::policy::Policy;
use crate::providers;
use crate::severity::Verdict;
use crate::{bytes, slips};

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
    if !may_be_mended(codes) || text.len() > 400 {
        return None;
    }
    let text = std::str::from_utf8(text).ok()?;
    let as_it_is = Draft { text: text.trim().to_owned(), reasons: Vec::new(), confidence: Confidence::Sure };
    let mended = as_it_is.clone().mended();
    let drafts = [as_it_is.clone(), mended.clone()].into_iter();
    let drafts =
        drafts.chain([&as_it_is, &mended].into_iter().filter_map(|draft| draft.without_slip(&policy.learnt)));
    let drafts = drafts.chain([mended.with_missing_dot(), mended.with_missing_at()].into_iter().flatten());
    drafts.filter(|draft| draft.text != text).find_map(|draft| draft.accepted(policy))
}

/// Suggests `joined`, an address cell without its inner spaces, where a word stood beside the address.
pub(crate) fn suggest_joined(joined: &[u8], policy: &Policy) -> Option<Suggestion> {
    let text = String::from_utf8(joined.to_vec()).ok()?;
    Draft { text, reasons: vec!["the word beside it belongs to it"], confidence: Confidence::Likely }
        .accepted(policy)
}

/// Findings that a change of spelling can mend.
fn may_be_mended(codes: CodeSet) -> bool {
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
        Code::UnknownEnding,
        Code::PublicSuffix,
        Code::TypingSlip,
        Code::NotHtmlAddress,
    ];
    codes.meets(CodeSet::of(SPELLING))
}

#[derive(Clone)]
struct Draft {
    text: String,
    reasons: Vec<&'static str>,
    confidence: Confidence,
}

impl Draft {
    fn accepted(self, policy: &Policy) -> Option<Suggestion> {
        let examined = examine(self.text.as_bytes(), policy);
        let address = examined.standard.filter(|_| examined.verdict == Verdict::Accept)?.address;
        Some(Suggestion { address, reason: self.reasons.join(", "), confidence: self.confidence })
    }

    fn changed(&mut self, text: String, reason: &'static str, confidence: Confidence) {
        if text != self.text {
            self.text = text;
            self.reasons.push(reason);
            self.confidence = self.confidence.min(confidence);
        }
    }

    /// With everything mended that stands in the way of an address.
    fn mended(mut self) -> Self {
        use Confidence::{Likely, Sure};
        self.changed(without_scheme(&self.text), "without what stands in front", Sure);
        self.changed(with_written_at(&self.text), "with the @ that was written out", Likely);
        let edges = |c: char| {
            matches!(c, '.' | ',' | ';' | ':' | '!' | '?' | '<' | '>' | '(' | ')' | '"' | '\'' | '[' | ']')
        };
        self.changed(self.text.trim_matches(edges).to_owned(), "without the marks around it", Sure);
        self.changed(self.text.replace("@@", "@"), "with one @", Sure);
        let Some((local, domain)) = self.text.split_once('@').map(|(l, d)| (l.to_owned(), d.to_owned()))
        else {
            return self;
        };
        let local_part = collapsed(local.trim_matches(['.', ' ']), "..", ".").replace(' ', "");
        let loose = if local.contains(' ') { "without the space" } else { "with one dot" };
        self.changed(format!("{local_part}@{domain}"), loose, Likely);
        let domain = domain.strip_prefix("www.").unwrap_or(&domain).to_owned();
        self.changed(format!("{local_part}@{domain}"), "without www.", Likely);
        let dotted = domain_with_dots(&domain);
        self.changed(format!("{local_part}@{dotted}"), "with a dot in the domain", Likely);
        let single = without_doubled_ending(&dotted);
        self.changed(format!("{local_part}@{single}"), "with one ending", Likely);
        self
    }

    /// With the domain that was probably meant, where this one looks mistyped.
    fn without_slip(&self, learnt: &Learnt) -> Option<Draft> {
        let (local, domain) = self.text.split_once('@')?;
        let domain = domain.to_ascii_lowercase();
        if providers::find(domain.as_bytes()).is_some() {
            return None;
        }
        let known_ending = psl::suffix(domain.as_bytes()).is_some_and(|suffix| suffix.is_known());
        let meant = slips::of(domain.as_bytes(), known_ending, learnt)?;
        let mut draft = self.clone();
        let confidence = if meant.sure { Confidence::Sure } else { Confidence::Likely };
        draft.changed(format!("{local}@{}", meant.domain), meant.reason, confidence);
        Some(draft)
    }

    /// `ada@gmailcom`: with the dot before an ending, where a known provider comes out.
    fn with_missing_dot(&self) -> Option<Draft> {
        let (local, domain) = self.text.split_once('@')?;
        let domain = domain.to_ascii_lowercase();
        if domain.contains('.') {
            return None;
        }
        let splits = (1..domain.len()).filter(|&at| domain.is_char_boundary(at));
        let known =
            splits.map(|at| format!("{}.{}", &domain[..at], &domain[at..])).find(|d| is_provider(d))?;
        let mut draft = self.clone();
        draft.changed(format!("{local}@{known}"), "with the dot before the ending", Confidence::Sure);
        Some(draft)
    }

    /// `adagmail.com`: with the @ before a known provider, the longest that fits.
    fn with_missing_at(&self) -> Option<Draft> {
        if self.text.contains('@') || self.text.contains(char::is_whitespace) {
            return None;
        }
        let lower = self.text.to_ascii_lowercase();
        let starts = (2..lower.len()).filter(|&at| lower.is_char_boundary(at));
        let at = starts.into_iter().find(|&at| is_provider(&lower[at..]))?;
        let local = self.text[..at].trim_end_matches(['.', '_', '-', '#', '=', '*']);
        let mut draft = self.clone();
        draft.changed(format!("{local}@{}", &lower[at..]), "with the missing @", Confidence::Likely);
        Some(draft)
    }
}

fn is_provider(domain: &str) -> bool {
    providers::find_own(domain.as_bytes()).is_some()
}

fn without_scheme(text: &str) -> String {
    let lower = text.to_ascii_lowercase();
    let prefixes = ["https://", "http://", "mailto:", "www."];
    let width = prefixes.iter().find(|prefix| lower.starts_with(**prefix)).map_or(0, |prefix| prefix.len());
    let rest = &text[width..];
    // A path behind the host goes as well.
    if width > 0 { rest.trim_end_matches('/').to_owned() } else { rest.to_owned() }
}

/// `ada(at)host`, `ada [at] host`, `ada at host`: with the @ where none stands.
fn with_written_at(text: &str) -> String {
    if text.contains('@') {
        return text.to_owned();
    }
    let lower = text.to_lowercase();
    if lower.len() != text.len() {
        return text.to_owned();
    }
    for word in ["(at)", "[at]", "{at}", "<at>", " at "] {
        if let Some(at) = lower.find(word) {
            let domain = text[at + word.len()..].trim();
            let domain =
                ["(dot)", "[dot]", " dot "].iter().fold(domain.to_owned(), |d, dot| d.replace(dot, "."));
            return format!("{}@{domain}", text[..at].trim());
        }
    }
    text.to_owned()
}

fn collapsed(text: &str, double: &str, single: &str) -> String {
    let mut out = text.to_owned();
    while out.contains(double) {
        out = out.replace(double, single);
    }
    out
}

/// Commas, semicolons, underscores and spaces in a domain become the dot that was meant.
fn domain_with_dots(domain: &str) -> String {
    let single = |separator: &str| collapsed(&domain.replace([',', ';', '_'], "."), separator, ".");
    let mended = single("..");
    let without_spaces = mended.replace(". ", ".").replace(" .", ".");
    let spaced = without_spaces.split_whitespace().collect::<Vec<_>>();
    let joined = match &spaced[..] {
        [only] => (*only).to_owned(),
        parts if without_spaces.contains('.') => parts.concat(),
        parts => parts.join("."),
    };
    let labels: Vec<&str> =
        joined.split('.').map(|label| label.trim_matches('-')).filter(|label| !label.is_empty()).collect();
    labels.join(".")
}

fn without_doubled_ending(domain: &str) -> String {
    let mut labels: Vec<&str> = domain.split('.').collect();
    while labels.len() > 2 && labels[labels.len() - 1] == labels[labels.len() - 2] {
        labels.pop();
    }
    labels.join(".")
}

/// Whether an address starts or ends as a web address does.
pub(crate) fn starts_like_web(part: &[u8]) -> bool {
    part.len() > 4 && part[..4].eq_ignore_ascii_case(b"www.") && !bytes::trim(part).is_empty()
}
