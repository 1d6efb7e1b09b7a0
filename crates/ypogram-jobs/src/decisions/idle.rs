//! Remembered decisions that change nothing any more.

use serde::Serialize;
use ypogram_core::{Code, CodeSet, Policy, Verdict, examine};

use crate::decisions::answers::codes_of;
use crate::decisions::{Memory, Remembered, never_from_memory};

/// Findings that an address has by itself, wherever it stands.
const OF_ADDRESS: &[Code] = &[
    Code::LooksMadeUp,
    Code::TypingSlip,
    Code::LookAlikeLetters,
    Code::QuotedLocalPart,
    Code::NoReply,
    Code::NotIssued,
    Code::Disposable,
];

/// A remembered decision that changes nothing any more.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct IdleDecision {
    /// Its line in the file.
    pub line: u64,
    /// The address that it is about.
    pub as_found: String,
    /// Why it changes nothing.
    pub why: String,
}

impl Memory {
    /// The decisions that change nothing under `policy`, as far as that can be told from the address alone.
    pub fn idle(&self, policy: &Policy) -> Vec<IdleDecision> {
        let never = never_from_memory(policy);
        let idle = |(line, entry): (u64, Remembered)| {
            let codes = codes_of(entry.findings.split_whitespace());
            // Of those about the same address the latest come first.
            let later = self
                .lines_of(entry.as_found.as_bytes())
                .take_while(|(other, _)| *other > line)
                .find(|(_, later)| (&later.person, &later.findings) == (&entry.person, &entry.findings));
            let examined = examine(entry.as_found.as_bytes(), policy);
            let asked = examined.codes.intersection(policy.reviewing());
            let is_of_address = codes.without(CodeSet::of(OF_ADDRESS)).is_empty();
            let why = if let Some((later, _)) = later {
                format!("the decision in line {later} counts")
            } else if codes.meets(never) || asked.meets(never) {
                "what it answers is asked every time".to_owned()
            } else if examined.verdict == Verdict::Reject {
                "the address is rejected".to_owned()
            } else if is_of_address && asked.is_empty() {
                "nothing is asked about the address any more".to_owned()
            } else if !asked.without(codes).is_empty() {
                let other: Vec<&str> = asked.without(codes).iter().map(Code::name).collect();
                format!("something else is asked as well: {}", other.join(" "))
            } else {
                return None;
            };
            Some(IdleDecision { line, as_found: entry.as_found, why })
        };
        self.entries().filter_map(idle).collect()
    }
}
