//! Everything there is to tell about one address.

use crate::data::providers::{Certainty, Operator};
use crate::judge::domain::DomainReport;
use crate::judge::key::KeyParts;
use crate::model::class::Class;
use crate::model::codes::CodeSet;
use crate::model::finding::Finding;
use crate::model::repair::Repairs;
use crate::model::same_mailbox::SameMailbox;
use crate::model::severity::Verdict;
use crate::model::span::Span;
use crate::policy::job_policy::Policy;

/// Everything there is to tell about one address.
#[derive(Debug, Default)]
pub struct Examination {
    /// Every finding that is not switched off, by place.
    pub findings: Vec<Finding>,
    /// Their codes.
    pub codes: CodeSet,
    /// The worst severity among them.
    pub verdict: Verdict,
    /// What kind of mailbox the domain gives; none where it is unusable.
    pub class: Option<Class>,
    /// Who runs the domain.
    pub operator: Operator,
    /// What the standard form changes.
    pub repairs: Repairs,
    /// Where the local part stands in the text.
    pub local_span: Span,
    /// Where the domain stands in the text.
    pub domain_span: Span,
    /// The standard form; none where the syntax is at fault.
    pub standard: Option<Standard>,
    pub(crate) domain: DomainReport,
    pub(crate) written: Vec<u8>,
    pub(crate) folded: Vec<u8>,
}

/// An address in standard form: domain in lower-case A-labels, no quotes that are not needed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Standard {
    /// The whole address.
    pub address: String,
    /// Where its @ stands.
    pub at: usize,
}

impl Standard {
    /// The local part.
    pub fn local_part(&self) -> &str {
        &self.address[..self.at]
    }

    /// The domain.
    pub fn domain(&self) -> &str {
        &self.address[self.at + 1..]
    }
}

impl Examination {
    /// Whether no syntax finding rejects it, so that there is a standard form.
    pub fn has_standard_form(&self) -> bool {
        self.standard.is_some()
    }

    /// How certain its class is.
    pub fn certainty(&self) -> Certainty {
        match self.class == self.domain.facts.class() {
            true => self.domain.facts.certainty(),
            false => Certainty::Known,
        }
    }

    /// The key under `same`; none where the syntax is at fault.
    pub fn key(&self, same: SameMailbox, policy: &Policy) -> Option<String> {
        self.standard.as_ref()?;
        let mut key = Vec::new();
        self.key_parts(policy).write(same, &mut key);
        Some(String::from_utf8(key).expect("parts of UTF-8, cut at ASCII"))
    }

    pub(crate) fn key_parts<'a>(&'a self, policy: &'a Policy) -> KeyParts<'a> {
        KeyParts {
            written: &self.written,
            folded: &self.folded,
            domain: self.domain.ascii.as_bytes(),
            facts: self.domain.facts,
            rule: &policy.rules[usize::from(self.domain.facts.rule)],
        }
    }
}
