//! The built-in lists as they can be shown.

use crate::data::known_typos;
use crate::data::local_words::{self, Placeholder, Role};
use crate::data::providers;
use crate::data::reserved;
use crate::model::class::Class;
use crate::model::codes::Code;

/// A built-in list: its name is that of the class it gives or of the finding it raises.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BuiltIn {
    /// Its name.
    pub name: &'static str,
    /// What its entries are and say, for people.
    pub what: &'static str,
    /// Its entries in order, each with what there is to say of it.
    pub entries: Vec<(String, String)>,
}

/// Every built-in list.
///
/// ```
/// let lists = ypogram_core::lists::built_in();
/// let free = lists.iter().find(|list| list.name == "free").unwrap();
/// assert!(free.entries.contains(&("gmail.com".into(), "google".into())));
/// ```
pub fn built_in() -> Vec<BuiltIn> {
    let classes = [
        (Class::Free, "domains: mailboxes for everybody"),
        (Class::Isp, "domains: mailboxes that come with an Internet connection"),
        (Class::Paid, "domains: mailboxes that people pay for"),
        (Class::Relay, "domains: pass mail on to an address that they hide"),
        (Class::Disposable, "domains: throw-away mailboxes"),
    ];
    let words = [
        (Code::RoleAccount, "local parts: role accounts, not persons"),
        (Code::NoReply, "local parts: nobody reads them"),
        (Code::Placeholder, "local parts: there is no address"),
        (Code::LooksMadeUp, "local parts: typed to get past a form"),
    ];
    let mut lists: Vec<BuiltIn> = classes
        .into_iter()
        .map(|(class, what)| BuiltIn { name: class.word(), what, entries: domains_of(class) })
        .chain(words.into_iter().map(|(code, what)| BuiltIn {
            name: code.name(),
            what,
            entries: words_of(code),
        }))
        .collect();
    lists.push(BuiltIn {
        name: Code::ReservedName.name(),
        what: "names: no mailbox can be there",
        entries: reserved::all().map(|(name, standard)| (name.to_owned(), standard.to_owned())).collect(),
    });
    lists.push(BuiltIn {
        name: Code::TypingSlip.name(),
        what: "domains and top-level domains: mistyped, and what was meant",
        entries: known_typos::all().map(|(typed, meant)| (typed.to_owned(), meant.to_owned())).collect(),
    });
    for list in &mut lists {
        list.entries.sort_unstable();
    }
    lists
}

fn domains_of(class: Class) -> Vec<(String, String)> {
    let of_class = providers::all().filter(|(_, provider)| provider.class == class);
    of_class
        .map(|(domain, provider)| {
            let above = if provider.below { "*." } else { "" };
            let says = if provider.listed { "listed" } else { provider.operator.name() };
            (format!("{above}{domain}"), says.to_owned())
        })
        .collect()
}

fn words_of(code: Code) -> Vec<(String, String)> {
    let says = |word: &local_words::LocalWord| match (code, word.role, word.placeholder) {
        (Code::RoleAccount, Role::Account(purpose), _) => Some(purpose),
        (Code::NoReply, Role::NoReply, _) => Some("automatic sender"),
        (Code::Placeholder, _, Some(Placeholder::Anywhere)) => Some("at any domain"),
        (Code::Placeholder, _, Some(Placeholder::WithItsDomain)) => Some("where the domain says it again"),
        (Code::LooksMadeUp, _, Some(Placeholder::MadeUp)) => Some(""),
        _ => None,
    };
    local_words::all()
        .filter_map(|(word, says_it)| Some((word.to_owned(), says(says_it)?.to_owned())))
        .collect()
}
