//! What is worked out once for each domain and then remembered.

use crate::characters::labels::Labels;
use crate::characters::web_prefix::starts_like_web;
use crate::data::providers::{self, Certainty, Operator};
use crate::data::public_suffix;
use crate::data::reserved::{self, TOKEN_DOMAIN};
use crate::judge::own_names;
use crate::judge::typos;
use crate::model::class::Class;
use crate::model::codes::{Code, CodeSet};
use crate::policy::job_policy::Policy;

/// What is known of a domain, in six bytes: the cache of judged domains holds them for each.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct DomainFacts {
    pub(crate) operator: Operator,
    /// One more than the place of its class; 0 where it is unusable.
    class: u8,
    /// Index of its mailbox rule in the policy.
    pub(crate) rule: u8,
    /// Those of [`Fact`] that hold, one bit each, and above them the fault of its name.
    holds: u16,
}

/// What may hold of a domain.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u16)]
pub(crate) enum Fact {
    /// Something rejects it: its name, or a fault whose findings have to be named one by one.
    Faulty = 1,
    /// Its name space is one with others of its operator.
    Joined = 1 << 1,
    /// It is one label below the entry that counts for it.
    BelowEntry = 1 << 2,
    PrivateSuffix = 1 << 3,
    Typo = 1 << 4,
    NonAscii = 1 << 5,
    /// A list of the job's own has an entry for it that raises a finding, or the domain name system says something against it.
    Listed = 1 << 6,
    /// A label of it says that nobody reads there.
    NoReply = 1 << 7,
    /// Its TLD is in the root zone or trusted, whatever else is wrong with it.
    KnownTld = 1 << 8,
    /// Its class is that of published lists alone.
    ListedClass = 1 << 9,
}

/// Where the three bits of the name's fault start.
const NAME_FAULT: u32 = 10;

/// What goes with a finding.
const TELLING: u16 = Fact::PrivateSuffix as u16
    | Fact::Typo as u16
    | Fact::NonAscii as u16
    | Fact::NoReply as u16
    | 7 << NAME_FAULT;

/// A fault of a domain's name, in three bits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
pub(crate) enum NameFault {
    OneLabel = 1,
    NumericTld,
    UnknownTld,
    PublicSuffix,
    Reserved,
}

impl NameFault {
    pub(crate) const ALL: [NameFault; 5] = [
        NameFault::OneLabel,
        NameFault::NumericTld,
        NameFault::UnknownTld,
        NameFault::PublicSuffix,
        NameFault::Reserved,
    ];

    pub(crate) const fn code(self) -> Code {
        match self {
            NameFault::OneLabel => Code::OneLabelDomain,
            NameFault::NumericTld => Code::NumericTld,
            NameFault::UnknownTld => Code::UnknownTld,
            NameFault::PublicSuffix => Code::PublicSuffix,
            NameFault::Reserved => Code::ReservedName,
        }
    }

    pub(crate) fn of(code: Code) -> Option<Self> {
        NameFault::ALL.into_iter().find(|fault| fault.code() == code)
    }
}

impl DomainFacts {
    /// How many bits tell all of it.
    pub(crate) const BITS: u32 = 32 + NAME_FAULT + 3;

    /// All of it in the lowest of [`BITS`](Self::BITS).
    #[inline]
    pub(crate) fn bits(self) -> u64 {
        let DomainFacts { operator, class, rule, holds } = self;
        u64::from(operator.0) | u64::from(class) << 16 | u64::from(rule) << 24 | u64::from(holds) << 32
    }

    /// The facts of which these are the [`bits`](Self::bits); those above do not count.
    #[inline]
    pub(crate) fn of_bits(bits: u64) -> Self {
        DomainFacts {
            operator: Operator(bits as u16),
            class: (bits >> 16) as u8,
            rule: (bits >> 24) as u8,
            holds: (bits >> 32) as u16 & ((1 << (NAME_FAULT + 3)) - 1),
        }
    }

    /// Whether `fact` holds.
    #[inline]
    pub(crate) fn is(self, fact: Fact) -> bool {
        self.holds & fact as u16 != 0
    }

    /// Notes whether `fact` holds.
    pub(crate) fn set(&mut self, fact: Fact, holds: bool) {
        self.holds = if holds { self.holds | fact as u16 } else { self.holds & !(fact as u16) };
    }

    /// The same, and `fact` where `holds`.
    pub(crate) fn with(mut self, fact: Fact, holds: bool) -> Self {
        self.set(fact, holds);
        self
    }

    /// What kind of mailbox it gives; none where it is unusable.
    #[inline]
    pub(crate) fn class(self) -> Option<Class> {
        Class::at(self.class.wrapping_sub(1))
    }

    /// How certain its class is.
    #[inline]
    pub(crate) fn certainty(self) -> Certainty {
        if self.is(Fact::ListedClass) { Certainty::Listed } else { Certainty::Known }
    }

    pub(crate) fn set_class(&mut self, class: Option<Class>) {
        self.class = class.map_or(0, |class| class.index() as u8 + 1);
    }

    /// What is wrong with its name, where that is all that rejects it.
    pub(crate) fn name_fault(self) -> Option<NameFault> {
        NameFault::ALL.get(usize::from(self.holds >> NAME_FAULT).wrapping_sub(1)).copied()
    }

    pub(crate) fn set_name_fault(&mut self, fault: Option<NameFault>) {
        self.holds |= fault.map_or(0, |fault| (fault as u16) << NAME_FAULT);
    }

    /// Whether its findings have to be named one by one.
    #[inline]
    pub(crate) fn needs_a_closer_look(self) -> bool {
        self.is(Fact::NonAscii) || self.is(Fact::Faulty) && self.holds >> NAME_FAULT == 0
    }

    /// The findings that go with a domain without other faults than those of its name.
    #[inline]
    pub(crate) fn codes(self) -> CodeSet {
        let mut codes = CodeSet::EMPTY;
        if let Some(code) = self.class().and_then(Class::code) {
            codes.insert(code);
        }
        if self.holds & TELLING != 0 {
            codes = codes.union(self.telling_codes());
        }
        codes
    }

    #[cold]
    fn telling_codes(self) -> CodeSet {
        let of_facts = [
            (Fact::PrivateSuffix, Code::PrivateSuffix),
            (Fact::Typo, Code::TypingSlip),
            (Fact::NonAscii, Code::NonAsciiDomain),
            (Fact::NoReply, Code::NoReply),
        ];
        let told = of_facts.into_iter().filter(|(fact, _)| self.is(*fact)).map(|(_, code)| code);
        told.chain(self.name_fault().map(NameFault::code)).fold(CodeSet::EMPTY, CodeSet::with)
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
    /// It is or lies below a name that the job trusts.
    trusted: bool,
}

/// Reads the name of a domain: its TLD, its public suffix, and whether it can have mailboxes at all.
pub(crate) fn name_of(labels: Labels<'_>, policy: &Policy) -> Name {
    let domain = labels.domain;
    if let Some(name) = policy.trusted(domain) {
        // A name of one label is a TLD; one of several is a domain, below the TLD that it has.
        let tld = memchr::memrchr(b'.', name.as_bytes()).map_or(name.len(), |dot| name.len() - dot - 1);
        let suffix = Some(domain.len() - tld);
        let fault = (suffix == Some(0)).then_some(Code::PublicSuffix);
        return Name { fault, suffix, private: false, trusted: true };
    }
    if domain == TOKEN_DOMAIN.as_bytes() {
        let suffix = domain.iter().position(|b| *b == b'.').map(|dot| dot + 1);
        return Name { suffix, trusted: true, ..Name::default() };
    }
    if reserved::find(domain).is_some() {
        return Name { fault: Some(Code::ReservedName), ..Name::default() };
    }
    let tld = labels.last_dot();
    let last = &domain[tld.map_or(0, |dot| dot + 1)..];
    if last.iter().all(u8::is_ascii_digit) {
        return Name { fault: Some(Code::NumericTld), ..Name::default() };
    }
    if tld.is_none() {
        return Name { fault: Some(Code::OneLabelDomain), ..Name::default() };
    }
    let Some(suffix) = public_suffix::of(domain) else {
        return Name { fault: Some(Code::UnknownTld), ..Name::default() };
    };
    let start = domain.len() - suffix.len;
    let at_suffix = start == 0 && !suffix.private;
    Name {
        fault: at_suffix.then_some(Code::PublicSuffix),
        suffix: Some(start),
        private: suffix.private && start == 0,
        trusted: false,
    }
}

/// Whether the domain is reserved although its TLD is in the root zone, as `example.org` is.
pub(crate) fn is_reserved_below_public(domain: &[u8]) -> bool {
    reserved::find(domain).is_some_and(|(name, _)| name.contains('.') && name != "home.arpa")
}

impl Name {
    /// Whether the TLD of `domain`, of which this is the name, is in the root zone or trusted.
    pub(crate) fn has_known_tld(self, domain: &[u8]) -> bool {
        match self.fault {
            None | Some(Code::PublicSuffix) => true,
            Some(Code::ReservedName) => is_reserved_below_public(domain),
            _ => false,
        }
    }
}

/// Class, operator, mailbox rule and slip of a domain whose name is without fault.
pub(crate) fn of_usable(labels: Labels<'_>, name: Name, policy: &Policy) -> DomainFacts {
    let domain = labels.domain;
    let mut facts = DomainFacts::default()
        .with(Fact::PrivateSuffix, name.private)
        .with(Fact::NoReply, says_no_reply(labels))
        .with(Fact::Listed, policy.lists.raises_at_domain(domain) || policy.dns_code(domain).is_some());
    if domain == TOKEN_DOMAIN.as_bytes() {
        facts.set_class(Some(Class::Token));
        return facts;
    }
    let (mut class, mut built_in) = (None, None);
    if let Some((provider, below)) = providers::find_above(labels, name.suffix.unwrap_or(domain.len())) {
        if policy.lists.asks_built_in(provider.class) {
            class = Some(provider.class);
            built_in = Some(providers::parent(domain, below).len());
            facts.set(Fact::ListedClass, provider.listed);
        }
        facts.operator = provider.operator;
        facts.rule = provider.rule;
        facts.set(Fact::Joined, provider.joined);
        facts.set(Fact::BelowEntry, below == 1);
    }
    if let Some((rule, joined)) = policy.own_rule(domain) {
        facts.rule = rule;
        facts.set(Fact::Joined, joined);
        facts.set(Fact::BelowEntry, false);
    }
    if let Some(own) = policy.lists.class_of_domain(domain, built_in) {
        class = Some(own);
        facts.set(Fact::ListedClass, false);
    } else if class.is_none() || facts.is(Fact::ListedClass) {
        let suffix = name.suffix.map_or(&b""[..], |start| &domain[start..]);
        class = class.or_else(|| Class::of_suffix(suffix)).or(Some(Class::Business));
        let slip = policy.learned_typos.meant(domain).is_some()
            || own_names::meant(domain, policy).is_some()
            || starts_like_web(domain)
            || !name.trusted && typos::is_slip(domain);
        facts.set(Fact::Typo, slip);
    }
    facts.set_class(class);
    facts
}

/// Whether a label of the domain is `noreply` or the like, as in `users.noreply.host.example`.
fn says_no_reply(labels: Labels<'_>) -> bool {
    let mut start = 0;
    labels.dots().chain([labels.domain.len()]).any(|end| {
        let label = &labels.domain[std::mem::replace(&mut start, end + 1)..end];
        // All of them end with it, and few others do.
        label.ends_with(b"reply")
            && matches!(label, b"noreply" | b"no-reply" | b"donotreply" | b"do-not-reply")
    })
}
