//! What a job asks for: severities in force, letter case, same-mailbox rule, lists and names of its own.

use std::sync::Arc;

use hashbrown::HashMap;

use crate::data::learned_typos::LearnedTypos;
use crate::data::providers::{self, MailboxRule};
use crate::data::reserved::is_or_below;
use crate::model::codes::{Code, CodeSet};
use crate::model::finding::Finding;
use crate::model::grammar_choice::Grammar;
use crate::model::policy_error::PolicyError;
use crate::model::repair::Repairs;
use crate::model::same_mailbox::SameMailbox;
use crate::model::severity::{Kind, Severity, Verdict};
use crate::policy::dns_answers::DnsAnswers;
use crate::policy::lists::Lists;
use crate::policy::words::Words;

/// What becomes of the letter case of a local part. That of the domain never counts and is always settled.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum LetterCase {
    /// Lower case.
    #[default]
    Lower,
    /// As it was written.
    Keep,
}

/// What a job asks for. [`Policy::default`] is the design's.
#[derive(Clone, Debug)]
pub struct Policy {
    severities: Vec<Severity>,
    pub(crate) reject: CodeSet,
    pub(crate) review: CodeSet,
    pub(crate) off: CodeSet,
    /// The letter case of the local part in the standard form.
    pub letter_case: LetterCase,
    /// The grammar an address is held against.
    pub grammar: Grammar,
    /// A value counts as well formed where it has a standard form, as rulebooks without a version meant it, and not where it is an
    /// address exactly as it stands.
    pub well_formed_by_standard_form: bool,
    /// An entry has to be right as it was typed: whatever a clean-up would repair is a fault.
    pub as_typed: bool,
    /// When two addresses are one mailbox.
    pub same: SameMailbox,
    /// The most bytes an address may have in this house, if there is such a limit.
    pub max_length: Option<usize>,
    pub(crate) public_names: Vec<String>,
    /// The house's own domains, of which others may be slips.
    pub(crate) house: Vec<String>,
    /// The job's own lists.
    pub lists: Lists,
    pub(crate) rules: Vec<MailboxRule>,
    /// Rules that the job gives to domains: the rule, and whether its name space takes the domain's place.
    pub(crate) own_rules: HashMap<Vec<u8>, (u8, bool)>,
    /// Slips learned_typos from the list itself.
    pub learned_typos: LearnedTypos,
    /// The house's own words for people.
    pub words: Words,
    /// What the domain name system says of domains, where it was asked.
    pub(crate) dns: Option<Arc<dyn DnsAnswers>>,
}

impl Default for Policy {
    fn default() -> Self {
        let mut policy = Policy {
            severities: built_in_severities(),
            reject: CodeSet::EMPTY,
            review: CodeSet::EMPTY,
            off: CodeSet::EMPTY,
            letter_case: LetterCase::default(),
            grammar: Grammar::default(),
            well_formed_by_standard_form: false,
            as_typed: false,
            same: SameMailbox::default(),
            max_length: None,
            public_names: Vec::new(),
            house: Vec::new(),
            lists: Lists::default(),
            rules: std::iter::once(MailboxRule::default())
                .chain(providers::built_in_rules().map(|(_, rule)| rule))
                .collect(),
            own_rules: HashMap::new(),
            learned_typos: LearnedTypos::default(),
            words: Words::default(),
            dns: None,
        };
        policy.settle_masks();
        policy
    }
}

fn built_in_severities() -> Vec<Severity> {
    let mut severities = vec![Severity::Note; Code::COUNT];
    for code in Code::ALL {
        severities[code.index()] = code.info().severity;
    }
    severities
}

impl Policy {
    /// How much `code` weighs in this job.
    pub fn severity(&self, code: Code) -> Severity {
        self.severities[code.index()]
    }

    /// Changes how much `code` weighs.
    ///
    /// # Errors
    /// Where the code cannot weigh so little: see [`Code::least`].
    pub fn set_severity(&mut self, code: Code, severity: Severity) -> Result<(), PolicyError> {
        if severity < code.least() {
            let why = match code.least() {
                Severity::Reject => "leaves nothing to split and always rejects",
                _ => "leaves no standard form to write and is for review at least",
            };
            return Err(PolicyError(format!("{} {why}", code.name())));
        }
        self.severities[code.index()] = severity;
        self.settle_masks();
        Ok(())
    }

    /// Treats `name` and every domain below it as public although it is reserved or not in the root zone.
    ///
    /// # Errors
    /// Where `name` is not a domain name.
    pub fn trust_name(&mut self, name: &str) -> Result<(), PolicyError> {
        self.public_names.push(self.plain_name(name)?);
        Ok(())
    }

    /// Takes a domain that is close to `name` for a slip of it, since that is the house's own.
    ///
    /// # Errors
    /// Where `name` is not a domain name.
    pub fn own_domain(&mut self, name: &str) -> Result<(), PolicyError> {
        self.house.push(self.plain_name(name)?);
        Ok(())
    }

    /// Whether there are names of which others may be slips.
    pub(crate) fn has_own_names(&self) -> bool {
        !(self.house.is_empty() && self.public_names.is_empty())
    }

    /// Gives `domain` the tags and dots of the mailboxes that `operator` runs, where it is hosted there.
    ///
    /// # Errors
    /// Where `domain` is not a domain name, or no rule is known for the operator.
    pub fn host_at(&mut self, domain: &str, operator: &str) -> Result<(), PolicyError> {
        let rule = providers::built_in_rules().find(|(name, _)| *name == operator).map(|(_, rule)| rule);
        let Some(rule) = rule else {
            let mut known: Vec<&str> = providers::built_in_rules().map(|(name, _)| name).collect();
            known.sort_unstable();
            known.dedup();
            let known = known.join(", ");
            return Err(PolicyError(format!("no mailbox rule of ‘{operator}’ is known; known are: {known}")));
        };
        // What a provider issues under its own domains says nothing of its customers'.
        let rule =
            MailboxRule { tag: rule.tag, ignored: rule.ignored, same: rule.same, ..MailboxRule::default() };
        self.give_rule(domain, rule, false)
    }

    /// Gives `domain` a rule of its own: whether dots in the local part count, and the separator before a tag.
    ///
    /// # Errors
    /// Where `domain` is not a domain name, or the separator cannot be one.
    pub fn set_mailbox_rule(
        &mut self,
        domain: &str,
        dots_count: bool,
        tag: Option<char>,
    ) -> Result<(), PolicyError> {
        let tag = match tag {
            None => None,
            Some(tag) if tag.is_ascii_punctuation() && !matches!(tag, '@' | '.' | '"') => Some(tag as u8),
            Some(tag) => return Err(PolicyError(format!("‘{tag}’ cannot stand before a tag"))),
        };
        let ignored = if dots_count { 0 } else { 1 << b'.' };
        self.give_rule(domain, MailboxRule { tag, ignored, ..MailboxRule::default() }, false)
    }

    /// Lets `domain` reach the mailboxes of `other`, by its rule.
    ///
    /// # Errors
    /// Where one of them is not a domain name.
    pub fn set_alias(&mut self, domain: &str, other: &str) -> Result<(), PolicyError> {
        let other = self.plain_name(other)?;
        let provider = providers::find(other.as_bytes());
        let (rule, joined) = match (self.own_rules.get(other.as_bytes()), provider) {
            (Some(own), _) => *own,
            (None, Some(provider)) => (provider.rule, provider.joined),
            (None, None) => (0, false),
        };
        let mut rule = self.rules[usize::from(rule)].clone();
        if !joined {
            rule.name_space = other.into();
        }
        self.give_rule(domain, rule, true)
    }

    fn give_rule(&mut self, domain: &str, rule: MailboxRule, joined: bool) -> Result<(), PolicyError> {
        let domain = self.plain_name(domain)?;
        let place = match self.rules.iter().skip(1).position(|known| *known == rule) {
            Some(place) => place + 1,
            None => {
                self.rules.push(rule);
                self.rules.len() - 1
            }
        };
        let place = u8::try_from(place)
            .map_err(|_| PolicyError("more than 255 different mailbox rules are too many".into()))?;
        self.own_rules.insert(domain.into_bytes(), (place, joined));
        Ok(())
    }

    /// The rule that the job itself gives to `domain`, and whether its name space takes the domain's place.
    pub(crate) fn own_rule(&self, domain: &[u8]) -> Option<(u8, bool)> {
        if self.own_rules.is_empty() { None } else { self.own_rules.get(domain).copied() }
    }

    fn plain_name(&self, name: &str) -> Result<String, PolicyError> {
        let bare = name.trim().trim_start_matches('.');
        match idna::domain_to_ascii_strict(bare) {
            Ok(ascii) if !bare.is_empty() => Ok(ascii),
            _ => Err(PolicyError(format!("‘{name}’ is not a domain name"))),
        }
    }

    /// Judges domains by these answers too.
    ///
    /// ```
    /// use std::sync::Arc;
    /// use ypogram_core::{Code, DnsAnswers, Policy, Verdict, examine};
    ///
    /// #[derive(Debug)]
    /// struct Known;
    ///
    /// impl DnsAnswers for Known {
    ///     fn code(&self, domain: &[u8]) -> Option<Code> {
    ///         (domain == b"no-such-firm.com").then_some(Code::NoSuchDomain)
    ///     }
    ///     fn sentence(&self, _: &[u8]) -> Option<String> {
    ///         Some("There is no such domain (asked today).".into())
    ///     }
    ///     fn hosted_by(&self, _: &[u8]) -> Option<String> {
    ///         None
    ///     }
    ///     fn hash(&self) -> String {
    ///         String::new()
    ///     }
    /// }
    ///
    /// let mut policy = Policy::default();
    /// policy.answered_by(Arc::new(Known));
    /// let examined = examine(b"someone@no-such-firm.com", &policy);
    /// assert_eq!(examined.verdict, Verdict::Reject);
    /// assert_eq!(examined.findings[0].message, "There is no such domain (asked today).");
    /// ```
    pub fn answered_by(&mut self, answers: Arc<dyn DnsAnswers>) {
        self.dns = Some(answers);
    }

    /// The findings of a domain that lists of the job's own and the domain name system raise.
    pub(crate) fn codes_of_domain(&self, domain: &[u8]) -> CodeSet {
        let of_lists = self.lists.codes_of_domain(domain);
        self.dns_code(domain).into_iter().fold(of_lists, CodeSet::with)
    }

    /// What the domain name system says against a domain.
    pub(crate) fn dns_code(&self, domain: &[u8]) -> Option<Code> {
        self.dns.as_ref()?.code(domain)
    }

    /// The answers of the domain name system, where it was asked.
    pub fn dns_answers(&self) -> Option<&dyn DnsAnswers> {
        self.dns.as_deref()
    }

    /// Who runs the mail host of a domain, where the domain name system was asked.
    pub fn hosted_by(&self, domain: &[u8]) -> Option<String> {
        self.dns.as_ref()?.hosted_by(domain)
    }

    /// The trusted name that `domain` (lower-case A-labels) is or lies below.
    pub(crate) fn trusted(&self, domain: &[u8]) -> Option<&str> {
        self.public_names.iter().find(|name| is_or_below(domain, name.as_bytes())).map(String::as_str)
    }

    /// Whether what was noticed leaves no standard form to write, or rejects the syntax.
    pub(crate) fn keeps_from_writing(&self, code: Code) -> bool {
        let of_syntax = code.info().kind == Kind::Syntax;
        of_syntax && (code.least() > Severity::Off || self.severity(code) == Severity::Reject)
    }

    /// Whether one of `findings` does.
    pub(crate) fn is_kept_from_writing(&self, findings: &[Finding]) -> bool {
        findings.iter().any(|finding| self.keeps_from_writing(finding.code))
    }

    /// The verdict that follows from the findings `codes`.
    #[inline]
    pub fn verdict(&self, codes: CodeSet) -> Verdict {
        if codes.meets(self.reject) {
            Verdict::Reject
        } else if codes.meets(self.review) {
            Verdict::Review
        } else {
            Verdict::Accept
        }
    }

    /// Those of `codes` that are not switched off.
    #[inline]
    pub fn in_force(&self, codes: CodeSet) -> CodeSet {
        codes.without(self.off)
    }

    /// The findings of an address that has `codes`, and `as_found` for how it stood. In a text a TLD that is likely a slip is
    /// told as that, and not as one that is unknown: somebody looks at it.
    ///
    /// ```
    /// use ypogram_core::{Code, CodeSet, Policy, text};
    /// let (policy, mut found) = (Policy::default(), Vec::new());
    /// text::find(b"write to bram@gmail.con", &policy, |hit| found.push(hit.codes()));
    /// let codes = policy.with_as_found(CodeSet::of(&[Code::UnknownTld]), found[0]);
    /// assert_eq!(codes, CodeSet::of(&[Code::TypingSlip]));
    /// ```
    pub fn with_as_found(&self, codes: CodeSet, as_found: CodeSet) -> CodeSet {
        let told = match as_found.contains(Code::TypingSlip) {
            true => codes.without(CodeSet::of(&[Code::UnknownTld])),
            false => codes,
        };
        told.union(self.in_force(as_found))
    }

    /// The codes that reject in this job.
    pub fn rejecting(&self) -> CodeSet {
        self.reject
    }

    /// The codes that are switched off in this job.
    pub fn switched_off(&self) -> CodeSet {
        self.off
    }

    /// The codes that ask for a review in this job.
    pub fn reviewing(&self) -> CodeSet {
        self.review
    }

    /// The faults of an address that needs `repairs`, where it has to be right as it was typed. A value that is well formed as a whole has
    /// only those of characters that the grammar takes and that nobody means: some show nothing, others look like letters that they are not.
    pub fn faults_as_typed(&self, repairs: Repairs, well_formed: bool) -> CodeSet {
        const OF_CHARACTERS: [Code; 3] =
            [Code::AsTypedInvisible, Code::AsTypedFullWidth, Code::AsTypedUnicodeForm];
        let faults = match (self.as_typed, well_formed) {
            (false, _) => CodeSet::EMPTY,
            (true, false) => repairs.as_typed(),
            (true, true) => repairs.as_typed().intersection(CodeSet::of(&OF_CHARACTERS)),
        };
        self.in_force(faults)
    }

    fn settle_masks(&mut self) {
        let with = |severity| {
            let codes = Code::all().filter(|&code| self.severity(code) == severity);
            codes.fold(CodeSet::EMPTY, CodeSet::with)
        };
        (self.reject, self.review, self.off) =
            (with(Severity::Reject), with(Severity::Review), with(Severity::Off));
    }
}
