//! The parts of an address, by name: what `split` makes columns of and `explain` shows.

use crate::characters::idna_form;
use crate::characters::labels::Labels;
use crate::judge::examination::Examination;
use crate::judge::facts;
use crate::judge::meaning::meaning_base;
use crate::judge::quick::Judge;
use crate::names::{DerivedName, NameOrder, derive};
use crate::policy::job_policy::Policy;

macro_rules! parts {
    ($($variant:ident $name:literal $what:literal)*) => {
        /// A part of an address.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Part {
            $(#[doc = $what] $variant,)*
        }

        impl Part {
            /// Every part, in the order of an address.
            pub const ALL: &'static [Part] = &[$(Part::$variant),*];

            /// Its name.
            pub const fn name(self) -> &'static str {
                match self { $(Part::$variant => $name),* }
            }

            /// What it is, for people.
            pub const fn what(self) -> &'static str {
                match self { $(Part::$variant => $what),* }
            }
        }
    };
}

parts! {
    LocalPart "local-part" "what stands before the @"
    Base "base" "the local part without its tag"
    Tag "tag" "what follows the sub-address separator (RFC 5233)"
    Domain "domain" "what stands behind the @, in A-labels"
    Labels "labels" "the labels of the domain, separated by spaces"
    SubDomain "sub-domain" "what stands before the registrable domain"
    Registrable "registrable" "the public suffix and one label more"
    DomainName "domain-name" "the registrable domain without the public suffix"
    Suffix "suffix" "the public suffix, under which others register"
    Tld "tld" "the top-level domain"
    UnicodeDomain "unicode-domain" "the domain in its own letters"
    AsciiDomain "ascii-domain" "the domain in A-labels"
    FirstName "first-name" "the first name that the local part shows"
    MiddleName "middle-name" "what stands between first and last name"
    LastName "last-name" "the last name that the local part shows"
    NameConfidence "name-confidence" "how much of a name there is: two-words, initial-and-word, one-word, none"
}

impl Part {
    /// The part of that name.
    pub fn from_name(name: &str) -> Option<Part> {
        Part::ALL.iter().copied().find(|part| part.name() == name)
    }

    /// Whether it is read out of the local part as a name.
    pub const fn is_of_name(self) -> bool {
        matches!(self, Part::FirstName | Part::MiddleName | Part::LastName | Part::NameConfidence)
    }

    /// Whether it depends on where the public suffix starts.
    pub const fn needs_suffix(self) -> bool {
        matches!(self, Part::SubDomain | Part::Registrable | Part::DomainName | Part::Suffix)
    }
}

/// An address that can be cut into its parts.
#[derive(Clone, Copy, Debug)]
pub struct Parts<'a> {
    /// In standard form.
    local_part: &'a [u8],
    /// The local part as it was written.
    written: &'a [u8],
    domain: &'a [u8],
    rule: u8,
    policy: &'a Policy,
}

impl Judge<'_> {
    /// The address judged last, to be cut into its parts; none where its syntax is at fault.
    ///
    /// ```
    /// use ypogram_core::{Hasher, Judge, Part, Policy, names::NameOrder};
    /// let policy = Policy::default();
    /// let mut judge = Judge::new(&policy, Hasher::with_key(1));
    /// judge.judge(b"Ada.Lovell+news@www.fernhollow.co.uk");
    /// let parts = judge.parts().unwrap();
    /// let part = |part| parts.text(part, NameOrder::default());
    /// assert_eq!(part(Part::Base), "ada.lovell");
    /// assert_eq!(part(Part::DomainName), "fernhollow");
    /// assert_eq!(part(Part::LastName), "Lovell");
    /// ```
    pub fn parts(&self) -> Option<Parts<'_>> {
        (!self.address().is_empty()).then(|| Parts {
            local_part: self.local_part(),
            written: self.written(),
            domain: self.domain(),
            rule: self.rule(),
            policy: self.policy(),
        })
    }
}

impl Examination {
    /// The address, to be cut into its parts; none where its syntax is at fault.
    pub fn parts<'a>(&'a self, policy: &'a Policy) -> Option<Parts<'a>> {
        let standard = self.standard.as_ref()?;
        Some(Parts {
            local_part: standard.local_part().as_bytes(),
            written: &self.written,
            domain: standard.domain().as_bytes(),
            rule: self.domain.facts.rule,
            policy,
        })
    }
}

impl Parts<'_> {
    /// Appends the part to `out`; nothing where the address lacks it.
    pub fn write(&self, part: Part, order: NameOrder, out: &mut Vec<u8>) {
        let name = if part.is_of_name() { self.name(order) } else { DerivedName::default() };
        let suffix = if part.needs_suffix() { self.suffix() } else { None };
        self.write_known(part, &name, suffix, out);
    }

    /// Like [`write`](Self::write), with what several parts need and was worked out before: the name and where the public
    /// suffix starts.
    pub fn write_known(&self, part: Part, name: &DerivedName, suffix: Option<usize>, out: &mut Vec<u8>) {
        let registrable = suffix.and_then(|suffix| registrable(self.domain, suffix));
        match part {
            Part::LocalPart => out.extend_from_slice(self.local_part),
            Part::Base => out.extend_from_slice(self.base(self.local_part)),
            Part::Tag => {
                out.extend_from_slice(
                    self.local_part.get(self.base(self.local_part).len() + 1..).unwrap_or_default(),
                );
            }
            Part::Domain | Part::AsciiDomain => out.extend_from_slice(self.domain),
            Part::Labels if self.is_literal() => out.extend_from_slice(self.domain),
            Part::Labels => out.extend(self.domain.iter().map(|&b| if b == b'.' { b' ' } else { b })),
            Part::SubDomain => {
                let end = registrable.unwrap_or_default().saturating_sub(1);
                out.extend_from_slice(&self.domain[..end]);
            }
            Part::Registrable => {
                out.extend_from_slice(registrable.map_or(b"", |start| &self.domain[start..]))
            }
            Part::DomainName => {
                let name = registrable.zip(suffix).map(|(start, suffix)| &self.domain[start..suffix - 1]);
                out.extend_from_slice(name.unwrap_or_default());
            }
            Part::Suffix => out.extend_from_slice(suffix.map_or(b"", |start| &self.domain[start..])),
            Part::Tld if self.is_literal() => {}
            Part::Tld => {
                let dot = memchr::memrchr(b'.', self.domain);
                out.extend_from_slice(&self.domain[dot.map_or(0, |dot| dot + 1)..]);
            }
            Part::UnicodeDomain => {
                let ascii = std::str::from_utf8(self.domain).expect("A-labels");
                out.extend_from_slice(idna_form::to_unicode(ascii).as_bytes());
            }
            Part::FirstName => out.extend_from_slice(name.first.as_bytes()),
            Part::MiddleName => out.extend_from_slice(name.middle.as_bytes()),
            Part::LastName => out.extend_from_slice(name.last.as_bytes()),
            Part::NameConfidence => out.extend_from_slice(name.confidence.word().as_bytes()),
        }
    }

    /// The domain in standard form.
    pub fn domain(&self) -> &[u8] {
        self.domain
    }

    /// The part as text.
    pub fn text(&self, part: Part, order: NameOrder) -> String {
        let mut out = Vec::new();
        self.write(part, order, &mut out);
        String::from_utf8_lossy(&out).into_owned()
    }

    /// The name that the local part shows.
    pub fn name(&self, order: NameOrder) -> DerivedName {
        let base = self.base(self.written);
        derive(&String::from_utf8_lossy(base), order)
    }

    /// `local` without its tag, by the rule of the domain's provider. A quoted one has none.
    fn base<'l>(&self, local: &'l [u8]) -> &'l [u8] {
        if local.first() == Some(&b'"') { local } else { meaning_base(local, self.rule, self.policy) }
    }

    fn is_literal(&self) -> bool {
        self.domain.first() == Some(&b'[')
    }

    /// Where the public suffix starts in the domain.
    pub fn suffix(&self) -> Option<usize> {
        if self.is_literal() { None } else { facts::name_of(Labels::of(self.domain), self.policy).suffix }
    }
}

/// Where the registrable domain starts, for a public suffix that starts at `suffix`.
fn registrable(domain: &[u8], suffix: usize) -> Option<usize> {
    let before = domain.get(..suffix.checked_sub(1)?).filter(|before| !before.is_empty())?;
    Some(memchr::memrchr(b'.', before).map_or(0, |dot| dot + 1))
}
