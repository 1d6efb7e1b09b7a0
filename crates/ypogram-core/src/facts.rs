//! What is worked out once for each domain and then remembered.

use crate::class::Class;
use crate::codes::{Code, CodeSet};
use crate::policy::Policy;
use crate::providers::{self, Operator};
use crate::reserved;
use crate::slips;
use crate::suggest::starts_like_web;

/// What is known of a domain, in a few bytes: the cache of judged domains holds one for each.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct DomainFacts {
    /// Something rejects it: its name, or a fault whose findings have to be named one by one.
    pub(crate) faulty: bool,
    /// What is wrong with its name, where that is all that rejects it.
    pub(crate) name_fault: Option<NameFault>,
    /// What kind of mailbox it gives; none where it is unusable.
    pub(crate) class: Option<Class>,
    pub(crate) operator: Operator,
    /// Index of its mailbox rule in the policy.
    pub(crate) rule: u8,
    /// Its name space is one with others of its operator.
    pub(crate) joined: bool,
    /// It is one label below the entry that counts for it.
    pub(crate) below_entry: bool,
    pub(crate) private_suffix: bool,
    pub(crate) slip: bool,
    pub(crate) non_ascii: bool,
    /// A list of the job's own has an entry for it that raises a finding.
    pub(crate) listed: bool,
    /// A label of it says that nobody reads there.
    pub(crate) no_reply: bool,
    /// Its ending is in the root zone or trusted, whatever else is wrong with it.
    pub(crate) known_ending: bool,
}

/// A fault of a domain's name, in three bits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
pub(crate) enum NameFault {
    OneLabel = 1,
    NumericEnding,
    UnknownEnding,
    PublicSuffix,
    Reserved,
}

impl NameFault {
    pub(crate) const ALL: [NameFault; 5] = [
        NameFault::OneLabel,
        NameFault::NumericEnding,
        NameFault::UnknownEnding,
        NameFault::PublicSuffix,
        NameFault::Reserved,
    ];

    pub(crate) const fn code(self) -> Code {
        match self {
            NameFault::OneLabel => Code::OneLabelDomain,
            NameFault::NumericEnding => Code::NumericEnding,
            NameFault::UnknownEnding => Code::UnknownEnding,
            NameFault::PublicSuffix => Code::PublicSuffix,
            NameFault::Reserved => Code::ReservedName,
        }
    }

    pub(crate) fn of(code: Code) -> Option<Self> {
        NameFault::ALL.into_iter().find(|fault| fault.code() == code)
    }
}

impl DomainFacts {
    /// The findings that go with a domain without faults.
    #[inline]
    pub(crate) fn codes(self) -> CodeSet {
        let mut codes = CodeSet::EMPTY;
        if let Some(code) = self.class.and_then(Class::code) {
            codes.insert(code);
        }
        if self.private_suffix {
            codes.insert(Code::PrivateSuffix);
        }
        if self.slip {
            codes.insert(Code::TypingSlip);
        }
        if self.non_ascii {
            codes.insert(Code::NonAsciiDomain);
        }
        if self.no_reply {
            codes.insert(Code::NoReply);
        }
        if let Some(fault) = self.name_fault {
            codes.insert(fault.code());
        }
        codes
    }
}

/// What the name of a well-formed domain says (lower-case A-labels, at least one label, no trailing dot).
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Name {
    /// The fault, where there is one.
    pub(crate) fault: Option<Code>,
    /// Where the public suffix starts.
    pub(crate) suffix: Option<usize>,
    pub(crate) private: bool,
}

/// Reads the name of `domain`: its ending, its public suffix, and whether it can have mailboxes at all.
pub(crate) fn name_of(domain: &[u8], policy: &Policy) -> Name {
    if let Some(name) = policy.trusted(domain) {
        let suffix = Some(domain.len() - name.len());
        let fault = (suffix == Some(0)).then_some(Code::PublicSuffix);
        return Name { fault, suffix, private: false };
    }
    if reserved::find(domain).is_some() {
        return Name { fault: Some(Code::ReservedName), ..Name::default() };
    }
    let ending = memchr::memrchr(b'.', domain);
    let last = &domain[ending.map_or(0, |dot| dot + 1)..];
    if last.iter().all(u8::is_ascii_digit) {
        return Name { fault: Some(Code::NumericEnding), ..Name::default() };
    }
    if ending.is_none() {
        return Name { fault: Some(Code::OneLabelDomain), ..Name::default() };
    }
    let Some(suffix) = psl::suffix(domain).filter(psl::Suffix::is_known) else {
        return Name { fault: Some(Code::UnknownEnding), ..Name::default() };
    };
    let private = suffix.typ() == Some(psl::Type::Private);
    let start = domain.len() - suffix.as_bytes().len();
    let at_suffix = start == 0 && !private;
    Name {
        fault: at_suffix.then_some(Code::PublicSuffix),
        suffix: Some(start),
        private: private && start == 0,
    }
}

/// Whether the domain is reserved although its ending is in the root zone, as `example.org` is.
pub(crate) fn is_reserved_below_public(domain: &[u8]) -> bool {
    reserved::find(domain).is_some_and(|(name, _)| name.contains('.') && name != "home.arpa")
}

impl Name {
    /// Whether the ending of `domain`, of which this is the name, is in the root zone or trusted.
    pub(crate) fn has_known_ending(self, domain: &[u8]) -> bool {
        match self.fault {
            None | Some(Code::PublicSuffix) => true,
            Some(Code::ReservedName) => is_reserved_below_public(domain),
            _ => false,
        }
    }
}

/// Class, operator, mailbox rule and slip of a domain whose name is without fault.
pub(crate) fn of_usable(domain: &[u8], name: Name, policy: &Policy) -> DomainFacts {
    let mut facts = DomainFacts {
        private_suffix: name.private,
        no_reply: says_no_reply(domain),
        listed: policy.lists.raises_at_domain(domain),
        ..DomainFacts::default()
    };
    let mut built_in = None;
    if let Some((provider, below)) = providers::find_above(domain, name.suffix.unwrap_or(domain.len())) {
        if policy.lists.asks_built_in(provider.class) {
            facts.class = Some(provider.class);
            built_in = Some(providers::parent(domain, below).len());
        }
        facts.operator = provider.operator;
        facts.rule = provider.rule;
        facts.joined = provider.joined;
        facts.below_entry = below == 1;
    }
    if let Some((rule, joined)) = policy.own_rule(domain) {
        (facts.rule, facts.joined, facts.below_entry) = (rule, joined, false);
    }
    if let Some(class) = policy.lists.class_of_domain(domain, built_in) {
        facts.class = Some(class);
    } else if facts.class.is_none() {
        let suffix = name.suffix.map_or(&b""[..], |start| &domain[start..]);
        facts.class = Some(Class::of_suffix(suffix).unwrap_or(Class::Business));
        facts.slip = policy.learnt.meant(domain).is_some()
            || starts_like_web(domain)
            || policy.trusted(domain).is_none() && slips::is_slip(domain);
    }
    facts
}

/// Whether a label of the domain is `noreply` or the like, as in `users.noreply.host.example`.
fn says_no_reply(domain: &[u8]) -> bool {
    let labels = || domain.split(|&b| b == b'.');
    memchr::memmem::find(domain, b"reply").is_some()
        && labels().any(|label| matches!(label, b"noreply" | b"no-reply" | b"donotreply" | b"do-not-reply"))
}
