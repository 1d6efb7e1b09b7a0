//! Where addresses may stand, and all that touches them.

use smallvec::SmallVec;

use crate::find::cell::apart::end_before_separator;
use crate::find::cell::peel::Peeled;
use crate::find::cell::trim::trimmed;
use crate::model::span::Span;
use crate::policy::job_policy::Policy;
use crate::syntax::wrapping::Wrapping;

/// Where an address may stand.
#[derive(Clone, Copy, Debug)]
pub(super) struct Core {
    /// With all that touches it.
    pub(super) outer: Span,
    pub(super) peeled: Peeled,
    pub(super) angle: bool,
}

/// Where addresses may stand in `part`, from left to right.
pub(super) fn cores(text: &[u8], part: Span, enclosed: bool, policy: &Policy) -> SmallVec<[Core; 2]> {
    let mut cores: SmallVec<[Core; 2]> = SmallVec::new();
    let mut from = part.start;
    while let Some(at) = memchr::memchr(b'@', &text[from..part.end]).map(|at| from + at) {
        let least = cores.last().map_or(part.start, |core: &Core| core.outer.end);
        let core = in_angle_brackets(text, at, least, part.end)
            .unwrap_or_else(|| touching(text, at, Span::new(least, part.end), enclosed, policy));
        from = core.outer.end.max(at + 1);
        cores.push(core);
    }
    without_own_name(text, cores)
}

/// `ada@host <mailto:ada@host>`: the one in front is what a mail program showed for the other.
fn without_own_name(text: &[u8], cores: SmallVec<[Core; 2]>) -> SmallVec<[Core; 2]> {
    match &cores[..] {
        [shown, linked] if linked.angle && !shown.angle => {
            let same = shown.peeled.text.of(text).eq_ignore_ascii_case(linked.peeled.text.of(text));
            let mut only = *linked;
            only.peeled.note(Wrapping::NamedAngle);
            only.outer.start = shown.outer.start;
            if same { SmallVec::from_slice(&[only]) } else { cores }
        }
        _ => cores,
    }
}

fn in_angle_brackets(text: &[u8], at: usize, least: usize, end: usize) -> Option<Core> {
    let open = memchr::memrchr2(b'<', b'>', &text[least..at]).map(|open| least + open)?;
    let close = memchr::memchr2(b'<', b'>', &text[at..end]).map(|close| at + close)?;
    if text[open] != b'<' || text[close] != b'>' {
        return None;
    }
    let mut peeled = Peeled::of(trimmed(text, Span::new(open + 1, close)));
    peeled.note(Wrapping::Angle);
    peeled.enclosed = true;
    peeled.take_all(text);
    Some(Core { outer: Span::new(open, close + 1), peeled, angle: true })
}

/// All within `reach` that touches the @ at `at`.
fn touching(text: &[u8], at: usize, reach: Span, enclosed: bool, policy: &Policy) -> Core {
    let Span { start: least, end } = reach;
    let ends_word = |b: &u8| b.is_ascii_whitespace();
    let quoted = opening_quote(text, at, least);
    // A list of words may have lost the @ of one.
    let ends_before = |b: &u8| ends_word(b) || matches!(b, b',' | b';');
    let after_last = |ends: &dyn Fn(&u8) -> bool| {
        text[least..at].iter().rposition(ends).map_or(least, |border| least + border + 1)
    };
    let word = || {
        let start = after_last(&ends_before);
        // Behind other words these signs separate as well.
        let has_words = text[least..start].iter().any(u8::is_ascii_alphanumeric);
        if has_words { after_last(&|b| ends_before(b) || matches!(b, b'/' | b'|')) } else { start }
    };
    let start = quoted.unwrap_or_else(word);
    let behind = |b: &u8| ends_word(b) || *b == b'<';
    let stop = text[at..end].iter().position(behind).map_or(end, |space| at + space);
    let stop = end_before_separator(text, at + 1, stop, policy);
    let outer = Span::new(start, stop);
    let mut peeled = Peeled::of(outer);
    peeled.enclosed = enclosed;
    peeled.take_all(text);
    Core { outer, peeled, angle: false }
}

/// Where the quotes open that close before the @ at `at`, at the start of a word.
fn opening_quote(text: &[u8], at: usize, least: usize) -> Option<usize> {
    if at <= least || text[at - 1] != b'"' {
        return None;
    }
    let open = text[least..at - 1].iter().rposition(|&b| b == b'"').map(|open| least + open)?;
    let starts_word =
        open == least || text[open - 1].is_ascii_whitespace() || matches!(text[open - 1], b'<' | b'(' | b':');
    starts_word.then_some(open)
}
