//! The conditions on local parts that are words with a meaning.

use crate::data::local_words::{self, LocalWord, Placeholder, Role};
use crate::entry_rule::alternatives::escaped;
use crate::entry_rule::condition::Demand;
use crate::model::codes::Code;

/// The local part, without a tag behind a plus sign, is none of the words that have these findings.
pub(super) fn demands() -> [(Code, Demand); 4] {
    let words = |is_one: fn(&LocalWord) -> bool| {
        let words = local_words::all().filter(|(_, says)| is_one(says)).map(|(word, _)| word.to_owned());
        let mut words: Vec<String> = words.collect();
        words.sort_unstable();
        words
    };
    let again = words(|says| says.placeholder == Some(Placeholder::WithItsDomain));
    let again = again.iter().map(|word| format!("^{0}(?:\\+[^@]*)?@{0}", escaped(word)));
    [
        (Code::Placeholder, Demand::NotNamed(words(|says| says.placeholder == Some(Placeholder::Anywhere)))),
        (Code::Placeholder, Demand::Never(again.collect::<Vec<_>>().join("|"))),
        (
            Code::RoleAccount,
            Demand::NotNamed(words(|says| {
                matches!(says.role, Role::Account(_)) && says.placeholder.is_none()
            })),
        ),
        (
            Code::NoReply,
            Demand::NotNamed(words(|says| says.role == Role::NoReply && says.placeholder.is_none())),
        ),
    ]
}
