//! A judged address as programs get it. The names are the same wherever one appears.

use serde::Serialize;
use ypogram_core::providers::Certainty;
use ypogram_core::{
    Class, Code, CodeSet, Examination, Finding, Form, Found, Kind, Policy, Repair, SameMailbox, Severity,
    Span, Suggestion, Verdict, WordOf, cell, examine, is_well_formed, providers::Operator, suggest_found,
};

use crate::plan::house::{BesideAddress, HouseFormats};
use crate::plan::house_pattern::{HousePattern, missed};
use crate::plan::outcome::Outcome;
use ypogram_core::house_format::{HouseFault, HouseVerdict};

/// A judged address.
#[derive(Clone, Debug, Serialize)]
pub struct JudgedAddress {
    /// The standard form; none where the syntax is at fault.
    pub address: Option<String>,
    /// How it stood, its wrapping included. Bytes that are not UTF-8 show as U+FFFD.
    pub as_found: String,
    /// The same in hexadecimal, where it is not UTF-8.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub as_found_hex: Option<String>,
    /// The form it stood in.
    pub form: Form,
    /// Accept, review or reject; none where there is no address.
    pub verdict: Option<Verdict>,
    /// Where a record with such a value ends.
    pub outcome: Outcome,
    /// The value exactly as it stands is one address by the grammar in force, and nothing more.
    pub well_formed: bool,
    /// What was noticed, by place.
    pub findings: Vec<FindingOut>,
    /// What was changed to reach the standard form.
    pub repairs: Vec<ypogram_core::Repair>,
    /// The words beside it that are no name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub remark: Option<String>,
    /// What was probably meant.
    pub suggestion: Option<Suggestion>,
    /// What kind of mailbox the domain gives.
    pub class: Option<Class>,
    /// How certain that is; none where there is no class.
    pub certainty: Option<Certainty>,
    /// Who runs the domain.
    pub operator: Operator,
    /// The local part of the standard form.
    pub local_part: Option<String>,
    /// The domain of the standard form.
    pub domain: Option<String>,
    /// The keys under the four rules; none where the syntax is at fault.
    pub keys: Option<Keys>,
    /// What the domain name system says of the domain, where it was asked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dns: Option<DnsTold>,
}

/// What the domain name system says of a domain.
#[derive(Clone, Debug, Serialize)]
pub struct DnsTold {
    /// The answer and when it was asked, as a sentence.
    pub sentence: String,
    /// Who runs the mail host.
    pub hosted_by: Option<String>,
}

/// One finding.
#[derive(Clone, Debug, Serialize)]
pub struct FindingOut {
    /// What was noticed.
    pub code: Code,
    /// What it is about.
    pub kind: Kind,
    /// How much it weighs in this job.
    pub severity: Severity,
    /// First byte in `as_found`.
    pub start: usize,
    /// Behind the last byte in `as_found`.
    pub end: usize,
    /// A sentence.
    pub message: String,
}

/// The keys under the four rules.
#[derive(Clone, Debug, Serialize)]
pub struct Keys {
    /// Local part as written.
    pub exact: String,
    /// Letter case ignored.
    pub case: String,
    /// What the domain's own provider documents.
    pub provider: String,
    /// Dots and plus tags ignored at every domain.
    pub everywhere: String,
}

/// Where an address was found.
struct Stands<'c> {
    cell: &'c [u8],
    /// What is given of the cell as it was found.
    shown: Span,
    /// The cell is an address exactly as it stands.
    well_formed: bool,
}

impl JudgedAddress {
    /// The addresses in `cell`, judged: at least one entry, be it one that says that there is none.
    pub fn all_in(cell: &[u8], policy: &Policy) -> Vec<(JudgedAddress, Examination)> {
        let mut found = Vec::new();
        cell::read(cell, policy, &mut found);
        let well_formed = is_well_formed(cell, policy.grammar);
        let alone = found.len() == 1;
        let one = |found: &Found<'_>| {
            let examined = examine(&found.text, policy);
            // An entry is held to account as a whole.
            let shown = if alone && policy.as_typed { Span::new(0, cell.len()) } else { found.as_found };
            (JudgedAddress::of(Stands { cell, shown, well_formed }, found, &examined, policy), examined)
        };
        match found.is_empty() {
            true => vec![(JudgedAddress::of_nothing(cell), Examination::default())],
            false => found.iter().map(one).collect(),
        }
    }

    /// The address `text`, found in the stretch `as_found` with its wrapping, with the findings that come from how it stood.
    pub(crate) fn of_text(as_found: &[u8], text: &[u8], codes: CodeSet, policy: &Policy) -> Self {
        let examined = examine(text, policy);
        let mut found = Vec::new();
        cell::read(as_found, policy, &mut found);
        let well_formed = is_well_formed(as_found, policy.grammar);
        let whole = Span::new(0, as_found.len());
        match found.iter().find(|found| *found.text == *text) {
            Some(found) => {
                // Words beside it are no fault of a text.
                let mut found = found.clone();
                (found.codes, found.marked) = (codes, None);
                {
                    let stands = Stands { cell: as_found, shown: found.as_found, well_formed };
                    JudgedAddress::of(stands, &found, &examined, policy)
                }
            }
            None => {
                let mut found = Found::whole(text);
                found.codes = codes;
                {
                    let stands = Stands { cell: as_found, shown: whole, well_formed };
                    JudgedAddress::of(stands, &found, &examined, policy)
                }
            }
        }
    }

    /// A value that says that there is no address.
    fn of_nothing(value: &[u8]) -> Self {
        JudgedAddress {
            address: None,
            as_found: String::from_utf8_lossy(value).into_owned(),
            as_found_hex: std::str::from_utf8(value).is_err().then(|| hex(value)),
            form: Form::None,
            verdict: None,
            outcome: Outcome::NoAddress,
            well_formed: false,
            findings: Vec::new(),
            repairs: Vec::new(),
            remark: None,
            suggestion: None,
            class: None,
            certainty: None,
            operator: Operator::default(),
            local_part: None,
            domain: None,
            keys: None,
            dns: None,
        }
    }

    /// The address that was found where it stands.
    fn of(stands: Stands<'_>, found: &Found<'_>, examined: &Examination, policy: &Policy) -> Self {
        let Stands { cell, shown, well_formed } = stands;
        let as_found = shown.of(cell);
        let inside = |span: Span| {
            let inside = |at: usize| at.saturating_sub(shown.start).min(as_found.len());
            Span::new(inside(span.start), inside(span.end))
        };
        let codes = policy.in_force(found.codes);
        let of_form = codes.iter().map(|code| Finding::plain(code, inside(found.marked.unwrap_or(shown))));
        let repairs = examined.repairs.union(found.repairs);
        let faults = policy.faults_as_typed(repairs, well_formed);
        let as_typed = Repair::ALL.iter().filter_map(|&repair| {
            let code = repair.as_typed().filter(|&code| repairs.contains(repair) && faults.contains(code))?;
            Some(Finding::plain(code, inside(place_of(repair, found, cell))))
        });
        let all = policy.with_as_found(examined.codes, found.codes).union(faults);
        let told = examined.findings.iter().filter(|finding| all.contains(finding.code));
        let placed = told.map(|finding| {
            let span = inside(found.locate(finding.span));
            Finding { span, ..finding.clone() }
        });
        let verdict = policy.verdict(all);
        let standard = examined.standard.as_ref();
        let key = |same| examined.key(same, policy).unwrap_or_default();
        let findings = of_form.chain(as_typed).chain(placed);
        let domain = standard.map_or("", |standard| standard.domain()).as_bytes();
        let dns = policy.dns_answers().and_then(|answers| {
            Some(DnsTold { sentence: answers.sentence(domain)?, hosted_by: answers.hosted_by(domain) })
        });
        JudgedAddress {
            address: standard.map(|standard| standard.address.clone()),
            as_found: String::from_utf8_lossy(as_found).into_owned(),
            as_found_hex: std::str::from_utf8(as_found).is_err().then(|| hex(as_found)),
            form: found.form,
            verdict: Some(verdict),
            outcome: Outcome::of(verdict, false),
            well_formed: if policy.well_formed_by_standard_form { standard.is_some() } else { well_formed },
            findings: findings.map(|finding| FindingOut::of(finding, policy)).collect(),
            repairs: repairs.iter().collect(),
            remark: found.remark.as_ref().map(|remark| String::from_utf8_lossy(remark).into_owned()),
            suggestion: if verdict == Verdict::Accept { None } else { suggest_found(found, all, policy) },
            class: examined.class,
            certainty: examined.class.map(|_| examined.certainty()),
            operator: examined.operator,
            local_part: standard.map(|standard| standard.local_part().to_owned()),
            domain: standard.map(|standard| standard.domain().to_owned()),
            keys: standard.map(|_| Keys {
                exact: key(SameMailbox::Exact),
                case: key(SameMailbox::Case),
                provider: key(SameMailbox::Provider),
                everywhere: key(SameMailbox::Everywhere),
            }),
            dns,
        }
    }

    /// Adds a finding about the whole value, with that sentence where there is one.
    pub(crate) fn add(&mut self, code: Code, sentence: Option<&str>, policy: &Policy) {
        let mut finding = FindingOut::of(Finding::plain(code, 0..self.as_found.len()), policy);
        if let Some(sentence) = sentence {
            sentence.clone_into(&mut finding.message);
        }
        self.findings.push(finding);
        self.judge_by(policy.verdict(policy.in_force(self.codes())));
    }

    /// Holds it, which stands in `value`, against patterns: the name of the first that fits. That none does is a finding, which shows how far it
    /// fits.
    pub fn hold_against_patterns(
        &mut self,
        value: &[u8],
        patterns: &[HousePattern],
        policy: &Policy,
    ) -> Option<String> {
        let standard_form = self.address.as_deref().map_or(value, str::as_bytes);
        let fitting = patterns.iter().find(|pattern| pattern.fits(value, standard_form));
        if fitting.is_none() && !patterns.is_empty() && self.verdict.is_some() {
            // One pattern alone has a sentence of its own.
            let own = match patterns {
                [only] => policy.words.own(WordOf::Pattern, &only.pattern.name),
                _ => policy.words.own(WordOf::Finding, Code::Pattern.name()),
            };
            let miss = missed(patterns, value, standard_form);
            let told = match patterns {
                [only] => format!("The pattern ‘{}’ {miss}.", only.pattern.name),
                _ => format!("No pattern fits; the nearest: {miss}."),
            };
            self.add(Code::Pattern, Some(own.unwrap_or(&told)), policy);
            // Where the value is all that is shown, what does not fit is marked in it.
            if let ([only], Some(finding)) = (patterns, self.findings.last_mut())
                && value == self.as_found.as_bytes()
            {
                finding.start = only.pattern.miss(value).fits_up_to.min(finding.end);
            }
        }
        fitting.map(|fitting| fitting.pattern.name.clone())
    }

    /// Holds it against the house's format for its domain, where there is one; each fault is a finding.
    pub fn hold_against_house(
        &mut self,
        house: &HouseFormats,
        beside: &BesideAddress,
        policy: &Policy,
    ) -> Option<HouseVerdict> {
        let address = self.address.clone().filter(|_| !house.is_empty())?;
        let verdict = house.judge(&address, beside)?;
        let start = self.as_found.to_lowercase().find(&*address).filter(|_| self.as_found.is_ascii());
        for HouseFault { span, message, .. } in &verdict.faults {
            let span = start.map_or(0..self.as_found.len(), |start| start + span.start..start + span.end);
            let mut finding = FindingOut::of(Finding::plain(Code::HouseFormat, span), policy);
            finding.message.clone_from(message);
            self.findings.push(finding);
        }
        if verdict.short_name {
            let short = Finding::plain(Code::ShortName, 0..self.as_found.len());
            self.findings.push(FindingOut::of(short, policy));
        }
        self.judge_by(policy.verdict(policy.in_force(self.codes())));
        Some(verdict)
    }

    /// What was found.
    pub(crate) fn codes(&self) -> CodeSet {
        self.findings.iter().fold(CodeSet::EMPTY, |codes, finding| codes.with(finding.code))
    }

    /// The same with the verdict that it has where somebody has answered these findings.
    pub(crate) fn answered(mut self, answers: CodeSet, policy: &Policy) -> Self {
        self.judge_by(policy.verdict(policy.in_force(self.codes()).without(answers)));
        self.suggestion = None;
        self
    }

    fn judge_by(&mut self, verdict: Verdict) {
        (self.verdict, self.outcome) = (Some(verdict), Outcome::of(verdict, false));
    }
}

/// Where in `cell` that stands which a repair takes off: what is in front of the address, else what is behind it; what is inside
/// of it is the address as a whole.
fn place_of(repair: Repair, found: &Found<'_>, cell: &[u8]) -> Span {
    let address = found.locate(Span::new(0, found.text.len()));
    let is_inside = matches!(
        repair,
        Repair::Invisible
            | Repair::FullWidth
            | Repair::Entities
            | Repair::Percent
            | Repair::SpaceAroundAt
            | Repair::UnicodeForm
    );
    let (front, behind) = (Span::new(0, address.start), Span::new(address.end, cell.len()));
    let is_blank = |span: Span| span.of(cell).trim_ascii().is_empty();
    match repair {
        _ if is_inside => address,
        Repair::Trimmed if front.is_empty() || !is_blank(front) => {
            let end = cell.trim_ascii_end().len();
            Span::new(end.min(cell.len()), cell.len())
        }
        Repair::Trimmed => front,
        _ if !is_blank(front) => front,
        _ if !behind.is_empty() => behind,
        _ => address,
    }
}

impl FindingOut {
    fn of(finding: Finding, policy: &Policy) -> Self {
        FindingOut {
            code: finding.code,
            kind: finding.code.info().kind,
            severity: policy.severity(finding.code),
            start: finding.span.start,
            end: finding.span.end,
            message: match policy.words.own(WordOf::Finding, finding.code.name()) {
                Some(own) => own.to_owned(),
                None => finding.message.into_owned(),
            },
        }
    }
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}
