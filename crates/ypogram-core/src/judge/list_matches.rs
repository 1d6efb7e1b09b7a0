//! Which entries of which lists speak of an address, and which of them decides.

use serde::{Serialize, Serializer};

use crate::characters::labels::Labels;
use crate::data::local_words;
use crate::data::providers::{self, Provider};
use crate::judge::examination::Examination;
use crate::judge::meaning::meaning_base;
use crate::model::class::Class;
use crate::model::codes::Code;
use crate::policy::job_policy::Policy;
use crate::policy::lists::{Asked, Of};

/// How exactly an entry names an address, from least to most.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Exactness {
    /// By its local part, whatever the domain.
    LocalPart,
    /// By a domain above its own: as many bytes.
    DomainAbove(usize),
    /// By its own domain.
    Domain,
    /// By its key.
    Key,
    /// By itself.
    Address,
}

impl Exactness {
    fn of_domain(entry: &[u8], domain: &[u8]) -> Self {
        if entry == domain { Exactness::Domain } else { Exactness::DomainAbove(entry.len()) }
    }

    /// A word for people.
    pub const fn word(self) -> &'static str {
        match self {
            Exactness::LocalPart => "the local part",
            Exactness::DomainAbove(_) => "a domain above",
            Exactness::Domain => "the domain",
            Exactness::Key => "the mailbox",
            Exactness::Address => "the address",
        }
    }
}

impl Serialize for Exactness {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.word())
    }
}

/// An entry that speaks of an address.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Decided {
    /// The list's name.
    pub list: String,
    /// Where the list comes from.
    pub from: String,
    /// The line of the entry in a list of one's own.
    pub line: Option<u64>,
    /// The entry as it is shown.
    pub entry: String,
    /// How exactly it names the address.
    pub by: Exactness,
    /// The class that it would give.
    pub class: Option<Class>,
    /// The finding that it raises.
    pub finding: Option<Code>,
    /// Whether the class is the one that counts.
    pub gives_the_class: bool,
    /// The cells that it brings along, by name.
    #[serde(serialize_with = "by_name")]
    pub columns: Vec<(String, String)>,
}

fn by_name<S: Serializer>(columns: &[(String, String)], serializer: S) -> Result<S::Ok, S::Error> {
    serializer.collect_map(columns.iter().map(|(name, cell)| (name, cell)))
}

impl Policy {
    /// Every entry that speaks of the address, the more exact first; nothing where its syntax is at fault.
    pub fn decided(&self, examined: &Examination) -> Vec<Decided> {
        let Some(standard) = &examined.standard else { return Vec::new() };
        let folded = [&examined.folded[..], b"@", standard.domain().as_bytes()].concat();
        let mut key = Vec::new();
        examined.key_parts(self).write(self.same, &mut key);
        let asked = Asked {
            address: &folded,
            at: examined.folded.len(),
            base: meaning_base(&examined.folded, examined.domain.facts.rule, self),
            key: &key,
        };
        let mut all: Vec<Decided> = self.of_own_lists(asked).collect();
        all.extend(self.of_built_in_domains(asked));
        all.extend(self.of_built_in_words(asked));
        // Equally exact ones stay in the order of the lists, one's own first.
        all.sort_by_key(|decided| std::cmp::Reverse(decided.by));
        let gives = |decided: &&mut Decided| decided.class.is_some() && decided.class == examined.class;
        if let Some(decided) = all.iter_mut().find(gives) {
            decided.gives_the_class = true;
        }
        for decided in &mut all {
            // Switched off, or of a class that does not count.
            decided.finding = decided.finding.filter(|code| examined.codes.contains(*code));
        }
        all
    }

    fn of_own_lists<'a>(&'a self, asked: Asked<'a>) -> impl Iterator<Item = Decided> + 'a {
        self.lists.iter().filter_map(move |list| {
            let entry = list.find_any(asked)?;
            let text = list.text(entry);
            let by = match list.purpose.of {
                Of::Keys => Exactness::Key,
                Of::LocalParts => Exactness::LocalPart,
                _ if text == asked.address => Exactness::Address,
                _ => Exactness::of_domain(text, asked.domain()),
            };
            let cell = |place| String::from_utf8_lossy(list.cell(entry, place)).into_owned();
            let columns = list.purpose.columns.iter().enumerate();
            Some(Decided {
                list: list.purpose.name.clone(),
                from: list.purpose.from.clone(),
                line: Some(list.line(entry)),
                entry: list.shown(entry),
                by,
                class: list.purpose.class,
                finding: list.purpose.finding,
                gives_the_class: false,
                columns: columns.map(|(place, name)| (name.clone(), cell(place))).collect(),
            })
        })
    }

    fn of_built_in_domains(&self, asked: Asked<'_>) -> Option<Decided> {
        let domain = asked.domain();
        let (provider, labels) = providers::find_above(Labels::of(domain), domain.len())?;
        let entry = providers::parent(domain, labels);
        let counts = self.lists.asks_built_in(provider.class);
        counts.then(|| Decided {
            list: provider.class.word().into(),
            from: "built in".into(),
            line: None,
            entry: format!("{}{}", if provider.below { "*." } else { "" }, String::from_utf8_lossy(entry)),
            by: Exactness::of_domain(entry, domain),
            class: Some(provider.class),
            finding: provider.class.code(),
            gives_the_class: false,
            columns: columns_of(provider),
        })
    }

    fn of_built_in_words(&self, asked: Asked<'_>) -> Option<Decided> {
        let code = local_words::code(asked.base, asked.domain())?;
        let listed = local_words::find(asked.base).is_some() && !self.lists.replaced.contains(code);
        listed.then(|| Decided {
            list: code.name().into(),
            from: "built in".into(),
            line: None,
            entry: String::from_utf8_lossy(asked.base).into_owned(),
            by: Exactness::LocalPart,
            class: None,
            finding: Some(code),
            gives_the_class: false,
            columns: Vec::new(),
        })
    }
}

/// What a built-in entry of a domain says beyond its class: who runs it, and how certain that is where it may be wrong.
fn columns_of(provider: &Provider) -> Vec<(String, String)> {
    let operator = [("operator".into(), provider.operator.name().into())];
    let certainty = [("certainty".into(), provider.certainty().word().into())];
    if provider.listed { certainty.into() } else { operator.into() }
}
