//! Cuts a cell into the parts of a list.

use smallvec::SmallVec;

use crate::find::cell::peel::Peeled;
use crate::find::cell::says_nothing;
use crate::find::cell::trim::trimmed;
use crate::model::span::Span;
use crate::syntax::wrapping::Wrapping;

/// The parts of a list.
pub(super) type Parts = SmallVec<[Span; 4]>;

/// CandidateScanner of other scripts that separate what stands in a list.
const SEPARATORS: [&str; 3] = ["،", "、", "؛"];

/// The parts of `whole` that hold an @ each: cut at separators outside quotes and brackets. A part without an @ belongs to
/// what follows it, as in `Lovell, Ada <…>`, unless it touches what is in front of it.
pub(super) fn parts(text: &[u8], whole: Span) -> Parts {
    let mut parts = Parts::new();
    let mut pending: Option<usize> = None;
    let cuts = cuts(text, whole);
    for (nth, cut) in cuts.iter().enumerate() {
        let start = pending.take().unwrap_or(cut.start);
        let joined = trimmed(text, Span::new(start, cut.end));
        if joined.is_empty() {
            continue;
        }
        if joined.of(text).contains(&b'@') {
            parts.push(joined);
            continue;
        }
        let touches = cut.start == joined.start && start == cut.start;
        let ends_there = cuts.get(nth + 1).is_none_or(|next| !touches_word(text, next.start));
        match parts.last_mut() {
            Some(last) if touches && ends_there && last.end + 1 >= joined.start => last.end = joined.end,
            _ => pending = Some(joined.start),
        }
    }
    if let (Some(_), Some(last)) = (pending, parts.last_mut()) {
        last.end = trimmed(text, whole).end;
    }
    // A sign at the end is one beside the last address.
    if parts.len() <= 1 { SmallVec::from_slice(&[whole]) } else { parts }
}

/// Takes an item off the start or the end of a list that says that there is no address.
pub(super) fn drop_nothing(text: &[u8], whole: &mut Peeled) {
    let separates = |b: &u8| matches!(b, b',' | b';' | b'|' | b'\n');
    let inner = whole.text.of(text);
    if memchr::memchr3(b',', b';', b'|', inner).is_none() && memchr::memchr(b'\n', inner).is_none() {
        return;
    }
    let (first, last) = (inner.iter().position(separates), inner.iter().rposition(separates));
    let (Some(first), Some(last)) = (first, last) else { return };
    // A single letter may have slipped off, and what is in quotes belongs together.
    let is_item = |item: &[u8]| match item.trim_ascii() {
        [one] => !one.is_ascii_alphanumeric(),
        item => !item.is_empty() && !item.contains(&b'"'),
    };
    let says_nothing = |item: &[u8]| is_item(item) && says_nothing(item);
    let (mut start, mut end) = (whole.text.start, whole.text.end);
    if says_nothing(&inner[last + 1..]) {
        end = whole.text.start + last;
    }
    if says_nothing(&inner[..first]) {
        start = whole.text.start + first + 1;
    }
    let left = Span::new(start.min(end), end);
    if left != whole.text && left.of(text).contains(&b'@') {
        whole.text = trimmed(text, left);
        whole.note(Wrapping::Marked);
    }
}

fn touches_word(text: &[u8], at: usize) -> bool {
    text.get(at).is_some_and(|b| !b.is_ascii_whitespace())
}

/// What stands between separators, the empty included.
fn cuts(text: &[u8], whole: Span) -> Parts {
    let mut parts = Parts::new();
    let (mut start, mut quoted, mut angle, mut round) = (whole.start, false, false, 0_usize);
    // Whether one of these comes behind a place goes by where the last is.
    let [quote, pointed, bracket] =
        [b'"', b'>', b')'].map(|closing| memchr::memrchr(closing, whole.of(text)).map(|at| whole.start + at));
    let mut i = whole.start;
    while i < whole.end {
        match text[i] {
            b'\\' if quoted => i += 1,
            b'"' => quoted = !quoted && quote > Some(i),
            b'<' if !quoted => angle = pointed > Some(i),
            b'>' if !quoted => {
                angle = false;
                if text.get(i + 1) == Some(&b'<') {
                    parts.push(Span::new(start, i + 1));
                    start = i + 1;
                }
            }
            b'(' if !quoted && bracket > Some(i) => round += 1,
            b')' if !quoted => round = round.saturating_sub(1),
            _ if quoted || angle || round > 0 => {}
            b';' | b',' | b'\n' | b'\r' | b'/' | b'|' => {
                parts.push(Span::new(start, i));
                start = i + 1;
            }
            0xD8 | 0xE3 => {
                if let Some(sign) =
                    SEPARATORS.iter().find(|sign| text[i..whole.end].starts_with(sign.as_bytes()))
                {
                    parts.push(Span::new(start, i));
                    start = i + sign.len();
                    i = start - 1;
                }
            }
            _ => {}
        }
        i += 1;
    }
    parts.push(Span::new(start.min(whole.end), whole.end));
    parts
}
