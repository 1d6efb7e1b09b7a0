//! What a job asks for: severities in force, letter case, same-mailbox rule, lists and names of its own.

use hashbrown::HashMap;

use crate::class::Class;
use crate::codes::{Code, CodeSet};
use crate::grammar::Grammar;
use crate::key::SameMailbox;
use crate::learnt::Learnt;
use crate::providers::{self, MailboxRule};
use crate::reserved::is_or_below;
use crate::severity::{Severity, Verdict};

/// What becomes of the letter case of a local part. That of the domain never counts and is always settled.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum LetterCase {
    /// Lower case.
    #[default]
    Lower,
    /// As it was written.
    Keep,
}

/// A reason why a policy cannot be made as asked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PolicyError(pub String);

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
    /// When two addresses are one mailbox.
    pub same: SameMailbox,
    /// The most octets an address may have in this house, if there is such a limit.
    pub max_length: Option<usize>,
    public_names: Vec<String>,
    own_domains: HashMap<Vec<u8>, Class>,
    pub(crate) rules: Vec<MailboxRule>,
    /// Slips learnt from the list itself.
    pub learnt: Learnt,
}

impl Default for Policy {
    fn default() -> Self {
        let mut policy = Policy {
            severities: Code::ALL.iter().map(|code| code.info().severity).collect(),
            reject: CodeSet::EMPTY,
            review: CodeSet::EMPTY,
            off: CodeSet::EMPTY,
            letter_case: LetterCase::default(),
            grammar: Grammar::default(),
            same: SameMailbox::default(),
            max_length: None,
            public_names: Vec::new(),
            own_domains: HashMap::new(),
            rules: std::iter::once(MailboxRule::default())
                .chain(providers::built_in_rules().map(|(_, rule)| rule))
                .collect(),
            learnt: Learnt::default(),
        };
        policy.settle_masks();
        policy
    }
}

impl Policy {
    /// How much `code` weighs in this job.
    pub fn severity(&self, code: Code) -> Severity {
        self.severities[code as usize]
    }

    /// Changes how much `code` weighs.
    ///
    /// # Errors
    /// Where the code leaves nothing to split, its severity is fixed.
    pub fn set_severity(&mut self, code: Code, severity: Severity) -> Result<(), PolicyError> {
        if code.leaves_nothing() && severity != Severity::Reject {
            return Err(PolicyError(format!("{} leaves nothing to split and always rejects", code.name())));
        }
        self.severities[code as usize] = severity;
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

    /// Gives `domain` the class `class`, whatever the built-in list says.
    ///
    /// # Errors
    /// Where `domain` is not a domain name.
    pub fn set_class(&mut self, domain: &str, class: Class) -> Result<(), PolicyError> {
        let domain = self.plain_name(domain)?;
        self.own_domains.insert(domain.into_bytes(), class);
        Ok(())
    }

    fn plain_name(&self, name: &str) -> Result<String, PolicyError> {
        let bare = name.trim().trim_start_matches('.');
        match idna::domain_to_ascii_strict(bare) {
            Ok(ascii) if !bare.is_empty() => Ok(ascii),
            _ => Err(PolicyError(format!("‘{name}’ is not a domain name"))),
        }
    }

    /// The trusted name that `domain` (lower-case A-labels) is or lies below.
    pub(crate) fn trusted(&self, domain: &[u8]) -> Option<&str> {
        self.public_names.iter().find(|name| is_or_below(domain, name.as_bytes())).map(String::as_str)
    }

    /// The class the job itself gives to `domain` or the nearest of its parents.
    pub(crate) fn own_class(&self, domain: &[u8]) -> Option<Class> {
        if self.own_domains.is_empty() {
            return None;
        }
        self.own_domains.get(domain).copied()
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

    /// The codes that reject in this job.
    pub fn rejecting(&self) -> CodeSet {
        self.reject
    }

    /// The codes that ask for a review in this job.
    pub fn reviewing(&self) -> CodeSet {
        self.review
    }

    fn settle_masks(&mut self) {
        let with = |severity| {
            let codes = Code::ALL.iter().copied().filter(|&code| self.severity(code) == severity);
            codes.fold(CodeSet::EMPTY, CodeSet::with)
        };
        (self.reject, self.review, self.off) =
            (with(Severity::Reject), with(Severity::Review), with(Severity::Off));
    }
}
