//! The plain question of the grammars: is a value, exactly as it stands, an address and nothing more?

use std::sync::LazyLock;

use crate::characters::bytes::{self, ATEXT, DOT, HIGH};
use crate::judge::examine::examine;
use crate::model::grammar_choice::Grammar;
use crate::model::severity::Kind;
use crate::policy::job_policy::Policy;

/// Whether `value`, exactly as it stands and to the last byte, is an address by `grammar` and nothing more. The grammar alone
/// answers: no list, no severity, no root zone.
///
/// ```
/// use ypogram_core::{Grammar, is_well_formed};
/// assert!(is_well_formed(b"someone@no-such-ending", Grammar::Smtp));
/// assert!(!is_well_formed(b" ada@fernhollow.org", Grammar::Smtp));
/// assert!(is_well_formed(b"Ada <ada@fernhollow.org>", Grammar::Header));
/// assert!(!is_well_formed("ada@fernhöllow.org".as_bytes(), Grammar::Html));
/// assert!(!is_well_formed(b"", Grammar::Smtp));
/// ```
pub fn is_well_formed(value: &[u8], grammar: Grammar) -> bool {
    // Most values that are not have a character that decides it.
    let may_be = match grammar {
        Grammar::Header => true,
        Grammar::Smtp => value.starts_with(b"\"") || value.ends_with(b"]") || is_one_word(value),
        Grammar::Html => is_one_word(value),
    };
    if !may_be || value.is_empty() {
        return false;
    }
    !examine(value, &POLICIES[grammar as usize])
        .findings
        .iter()
        .any(|finding| finding.code.info().kind == Kind::Syntax)
}

/// The default policy with each grammar, in the order of [`Grammar`].
static POLICIES: LazyLock<[Policy; 3]> = LazyLock::new(|| {
    [Grammar::Smtp, Grammar::Header, Grammar::Html].map(|grammar| {
        let mut policy = Policy::default();
        policy.grammar = grammar;
        policy
    })
});

fn is_one_word(value: &[u8]) -> bool {
    value.iter().all(|&b| b == b'@' || bytes::is(b, ATEXT | DOT | HIGH))
}
