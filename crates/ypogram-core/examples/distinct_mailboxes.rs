//! Counts the mailboxes among the lines of standard input: one that is reached under several spellings counts once.

use std::collections::HashMap;
use std::io::{BufRead, Result, Write};

use ypogram_core::{Hasher, Judge, Policy, SameMailbox};

fn main() -> Result<()> {
    run(std::io::stdin().lock(), std::io::stdout().lock())
}

pub(crate) fn run(input: impl BufRead, mut output: impl Write) -> Result<()> {
    let policy = Policy::default();
    let mut judge = Judge::new(&policy, Hasher::with_key(0));
    let (mut mailboxes, mut key) = (HashMap::<Vec<u8>, u32>::new(), Vec::new());
    for line in input.lines() {
        if judge.judge(line?.as_bytes()).verdict.is_usable() {
            key.clear();
            judge.key(SameMailbox::Provider, &mut key);
            *mailboxes.entry(key.clone()).or_default() += 1;
        }
    }
    writeln!(output, "{} mailboxes", mailboxes.len())
}
