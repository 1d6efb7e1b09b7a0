//! Addresses as most stand in a text: short and plain on both sides of their @.

use crate::characters::bytes::{self, ATEXT, DOT, HIGH, LDH, PLUS, UPPER};
use crate::find::text::candidates::Candidate;
use crate::find::text::local::Local;
use crate::find::text::word_after::Word;
use crate::model::span::Span;
use ypogram_bytes::BLOCK;
use ypogram_bytes::{ByteMasks, low_bits};

/// How many bytes in front of an @ are looked at together with it and with those behind it.
const BEFORE: usize = 28;

/// How many signs are looked at together.
pub(super) const TOGETHER: usize = 16;

/// What stands around some signs, in lower case, and what these bytes are.
pub(super) struct Surroundings {
    letters: [[u8; BLOCK]; TOGETHER],
    masks: [ByteMasks; TOGETHER],
}

impl Surroundings {
    /// Of no signs.
    pub(super) fn none() -> Self {
        Surroundings { letters: [[0; BLOCK]; TOGETHER], masks: [ByteMasks::default(); TOGETHER] }
    }

    /// Looks around `signs` in `text`, of which there are at most [`TOGETHER`]. LinePosition the ends of the text nothing is usual.
    #[inline]
    pub(super) fn fill(&mut self, text: &[u8], signs: &[Candidate]) {
        for (letters, &Candidate { at, .. }) in self.letters.iter_mut().zip(signs) {
            let around = at.checked_sub(BEFORE).and_then(|from| text[from..].first_chunk());
            *letters = around.copied().unwrap_or([0; BLOCK]);
        }
        ByteMasks::lowering(&mut self.letters[..signs.len()], &mut self.masks);
    }

    /// What stands around the `nth` sign, an @ at `at`; none where that is odd in any way, and where another @ follows.
    #[inline]
    pub(super) fn usual(&self, nth: usize, at: usize) -> Option<Usual<'_>> {
        Usual::read(&self.letters[nth], &self.masks[nth], at)
    }
}

/// What may be an address, and what its bytes are. That its domain exists is not known yet, nor what stands around it.
#[derive(Debug)]
pub(crate) struct Usual<'s> {
    /// The bytes around the @, in lower case.
    letters: &'s [u8; BLOCK],
    masks: &'s ByteMasks,
    /// Where the address starts and ends among them.
    start: usize,
    end: usize,
    /// Where it starts in the text.
    pub(super) place: usize,
    /// The hash of its domain, where a judge has taken it.
    pub(crate) hash: u64,
}

impl<'s> Usual<'s> {
    #[inline(always)]
    fn read(letters: &'s [u8; BLOCK], masks: &'s ByteMasks, at: usize) -> Option<Self> {
        // All of it is looked at before anything is decided, since a processor cannot foresee what is odd about one.
        let stops = masks.not_local & low_bits(BEFORE as u32);
        let start = BLOCK - stops.leading_zeros() as usize;
        let dots = masks.dot & in_front(start);
        let misplaced = dots & (dots << 1 | 1 << (BEFORE - 1));
        let before = letters[start.max(1) - 1];
        let odd_before = (masks.at >> BEFORE & 1 == 0)
            | (stops == 0)
            | (start == BEFORE)
            | (misplaced != 0)
            | bytes::is(before, ATEXT | HIGH)
            | (before == b'\\')
            | (before == b'@')
            | !letters[start].is_ascii_alphanumeric();

        let first = BEFORE + 1;
        let stops = masks.not_domain & !low_bits(first as u32);
        let end = (stops.trailing_zeros() as usize).min(BLOCK - 1);
        let hyphens = masks.sign;
        let twice = masks.dot & (masks.dot << 1 | 1 << first) | hyphens & hyphens << 1;
        let ends_oddly = |end: usize| (masks.dot | hyphens) >> (end - 1) & 1 == 1;
        let odd_behind =
            (stops == 0) | (end == first) | bytes::is(letters[end], HIGH) | (twice & behind(end) != 0);
        // A full stop or a hyphen behind it is not its own.
        let goes_on = ends_oddly(end);
        let end = end - usize::from(goes_on);
        let odd_behind = odd_behind | goes_on & ((end == first) | ends_oddly(end)) | (letters[end] == b'@');
        if odd_before | odd_behind {
            return None;
        }
        Some(Usual { letters, masks, start, end, place: at - BEFORE + start, hash: 0 })
    }

    /// Where it stands in the text.
    #[inline]
    pub(super) fn span(&self) -> Span {
        Span::new(self.place, self.place + self.end - self.start)
    }

    fn local_mask(&self) -> u64 {
        in_front(self.start)
    }

    fn domain_mask(&self) -> u64 {
        behind(self.end)
    }

    /// Where the @ stands in the address.
    #[inline]
    pub(super) fn at(&self) -> usize {
        BEFORE - self.start
    }

    /// The local part in lower case.
    #[inline]
    pub(crate) fn local_part(&self) -> &[u8] {
        &self.letters[self.start..BEFORE]
    }

    /// The domain in lower case.
    #[inline]
    pub(crate) fn domain(&self) -> &[u8] {
        &self.letters[BEFORE + 1..self.end]
    }

    /// The same and what stands behind it.
    #[inline]
    pub(crate) fn domain_and_behind(&self) -> &[u8] {
        &self.letters[BEFORE + 1..]
    }

    /// The address in lower case.
    #[inline]
    pub(crate) fn address(&self) -> &[u8] {
        &self.letters[self.start..self.end]
    }

    /// Whether the local part was written with capitals.
    #[inline]
    pub(crate) fn has_local_capitals(&self) -> bool {
        self.masks.capital & self.local_mask() != 0
    }

    /// Whether the domain was written with capitals.
    #[inline]
    pub(crate) fn has_domain_capitals(&self) -> bool {
        self.masks.capital & self.domain_mask() != 0
    }

    /// Whether the domain has two labels, and its last one cannot be the first word of the next sentence.
    #[inline]
    pub(crate) fn ends_in_a_label(&self) -> bool {
        let dots = self.masks.dot & self.domain_mask();
        if dots == 0 {
            return false;
        }
        let capitals = self.masks.capital & self.domain_mask();
        let first_of_last = 1 << (dots.ilog2() + 1);
        capitals & first_of_last == 0 || capitals & (first_of_last - 1) != 0
    }

    /// Where the first plus sign of the local part stands, unless that is its first character.
    #[inline]
    pub(crate) fn plus(&self) -> Option<usize> {
        let plus = self.masks.plus & self.local_mask();
        (plus != 0).then(|| plus.trailing_zeros() as usize - self.start)
    }

    /// Whether the local part has a dot.
    #[inline]
    pub(super) fn has_dots(&self) -> bool {
        self.masks.dot & self.local_mask() != 0
    }

    /// Whether the local part has other characters than letters, digits and dots.
    #[inline]
    pub(crate) fn has_signs(&self) -> bool {
        self.masks.sign & self.local_mask() != 0
    }

    /// Whether what stands beside it in `text` can neither wrap it nor make something else of it.
    #[inline]
    pub(super) fn stands_free(&self, text: &[u8]) -> bool {
        let (before, behind) = (self.letters[self.start - 1], self.letters[self.end]);
        let next = text.get(self.span().end + 1).copied().unwrap_or(b' ');
        // Each is looked at, as in `read`.
        let in_front = matches!(before, b':' | b'/' | b'<' | b'>' | b';' | b'[');
        // ‘git@host.org:group/project.git’, ‘scp notes.txt ada@host.org:’
        let remote = behind == b':';
        // ‘< ada@host.org >’
        let spaced = (behind == b' ') & bytes::is(before, bytes::SPACE) & matches!(next, b' ' | b'>');
        // ‘ada@host.org ~ %’
        let prompt = (behind == b' ') & matches!(next, b'~' | b'/');
        // ‘ssh ada@host.org’, ‘ssh -p 22 ada@host.org’
        let last = self.place.checked_sub(2).map_or(b' ', |at| text[at].to_ascii_lowercase());
        let command = (before == b' ') & matches!(last, b'h' | b'p' | b'c' | b'0'..=b'9');
        !(in_front
            | matches!(behind, b'>' | b'<' | b'&' | b'#' | b'$' | b'\\')
            | remote
            | spaced
            | prompt
            | command)
    }

    /// The local part, as a closer look would tell it.
    pub(super) fn local(&self) -> Local {
        let class = |mask: u64, class: u16| if mask & self.local_mask() != 0 { class } else { 0 };
        let masks = &self.masks;
        let seen = ATEXT | class(masks.capital, UPPER) | class(masks.dot, DOT) | class(masks.plus, PLUS);
        let (start, run) = (self.place, self.place);
        Local { start, double_dot: false, seen, run, behind_script: None, template: false }
    }

    /// The word behind the @, as a closer look would tell it.
    pub(super) fn word(&self) -> Word {
        let dots = self.masks.dot & self.domain_mask();
        Word {
            end: self.span().end,
            seen: LDH | if self.has_domain_capitals() { UPPER } else { 0 },
            last_dot: (dots != 0).then(|| dots.ilog2() as usize - BEFORE - 1),
        }
    }
}

/// The bits of what stands in front of the @ from `start` on.
#[inline]
fn in_front(start: usize) -> u64 {
    low_bits(BEFORE as u32) & !low_bits(start as u32)
}

/// The bits of what stands behind the @ up to `end`.
#[inline]
fn behind(end: usize) -> u64 {
    low_bits(end as u32) & !low_bits(BEFORE as u32 + 1)
}
