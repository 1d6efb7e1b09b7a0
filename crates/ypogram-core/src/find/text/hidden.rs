//! Addresses that programs do not see, on their way into what is found: taken, or counted as passed over.

use crate::find::text::{Hit, Options, Seen, SkipReason, obfuscated};
use crate::model::span::Span;
use crate::policy::job_policy::Policy;

/// Bytes of the shortest: `a@b[dot]cc`.
const SHORTEST: usize = 10;

/// Addresses that programs do not see, from left to right.
pub(super) struct Hidden<'a> {
    text: &'a [u8],
    hits: std::iter::Peekable<std::vec::IntoIter<(usize, Hit<'a>)>>,
    /// They are wanted; else they are only counted.
    taken: bool,
    /// Where the last one stands that has an @ and is only counted.
    around: Span,
}

impl<'a> Hidden<'a> {
    /// Those whose sign stands in `body`, as far as the job asks for them.
    pub(super) fn find(
        text: &'a [u8],
        body: std::ops::Range<usize>,
        options: Options,
        policy: &Policy,
    ) -> Self {
        let hits = match (options.obfuscated, options.tell_hidden) {
            (true, _) => obfuscated::all(text, body, policy),
            (false, true) if text.len() >= SHORTEST => obfuscated::likely(text, body, policy),
            (false, _) => Vec::new(),
        };
        Hidden { text, hits: hits.into_iter().peekable(), taken: options.obfuscated, around: Span::new(0, 0) }
    }

    /// Whether there is one left: in most texts there is none.
    #[inline]
    pub(super) fn has_more(&self) -> bool {
        self.hits.len() > 0
    }

    /// The next one that starts no later than `at`, and where its sign stands. What is `done` moves on with one that is taken.
    pub(super) fn next_up_to(&mut self, at: usize, done: &mut usize) -> Option<(usize, Seen<'a>)> {
        loop {
            let (place, hit) = self.hits.next_if(|(_, hit)| hit.bare.start <= at)?;
            if self.taken {
                *done = (*done).max(hit.bare.end);
                return Some((place, Seen::Match(hit)));
            }
            if memchr::memchr(b'@', hit.bare.of(self.text)).is_none() {
                return Some((place, Seen::Skipped(hit.bare, SkipReason::Hidden)));
            }
            // It is counted where its @ is.
            self.around = hit.bare;
        }
    }

    /// What is seen at the @ at `at`: what is passed over there may be hidden.
    pub(super) fn told(&self, at: usize, seen: Seen<'a>) -> Seen<'a> {
        match seen {
            Seen::Skipped(..) if (self.around.start..self.around.end).contains(&at) => {
                Seen::Skipped(self.around, SkipReason::Hidden)
            }
            seen => seen,
        }
    }
}
