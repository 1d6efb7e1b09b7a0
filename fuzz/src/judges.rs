//! Policies and judges that stay from input to input, since to make them takes longer than to judge.

use std::cell::RefCell;
use std::sync::LazyLock;

use ypogram_core::{Grammar, Hasher, Judge, Policy};

static POLICIES: LazyLock<[Policy; 3]> = LazyLock::new(|| {
    [Grammar::Smtp, Grammar::Header, Grammar::Html].map(|grammar| {
        let mut policy = Policy::default();
        policy.grammar = grammar;
        policy
    })
});

thread_local! {
    static JUDGES: [RefCell<Judge<'static>>; 3] =
        std::array::from_fn(|nth| RefCell::new(Judge::new(&POLICIES[nth], Hasher::with_key(1))));
}

/// The policy with that grammar, else as it is by default.
pub fn policy_by(grammar: Grammar) -> &'static Policy {
    &POLICIES[place(grammar)]
}

/// Has `judge_it` use a judge by that policy.
pub fn with_judge_by<T>(grammar: Grammar, judge_it: impl FnOnce(&mut Judge<'static>) -> T) -> T {
    JUDGES.with(|judges| judge_it(&mut judges[place(grammar)].borrow_mut()))
}

fn place(grammar: Grammar) -> usize {
    POLICIES.iter().position(|policy| policy.grammar == grammar).expect("there is one for each grammar")
}
