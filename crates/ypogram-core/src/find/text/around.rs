//! How far an address reaches to both sides of its @, and what shows that it is none.

use crate::characters::bytes::HIGH;
use crate::find::text::context::context;
use crate::find::text::local_before::local_before;
use crate::find::text::skip_reason::SkipReason;
use crate::find::text::tld_lookup::TldLookup;
use crate::find::text::tld_match::{TldMatch, match_tld};
use crate::find::text::usual::Usual;
use crate::find::text::word_after::word_after;
use crate::judge::scan::Scan;
use crate::model::span::Span;

/// The address around an @.
pub(super) struct Bare {
    pub(super) span: Span,
    /// What was seen of it on the way, where it is plain ASCII.
    pub(super) scan: Option<Scan>,
    /// Its domain is likely a typing slip.
    pub(super) is_slip: bool,
}

/// An @ in a text, and where what stands in front of it may begin.
#[derive(Clone, Copy)]
pub(super) struct At<'t> {
    pub(super) text: &'t [u8],
    pub(super) at: usize,
    pub(super) least: usize,
}

/// The address around an @; `usual` is what is known of it already.
#[inline(always)]
pub(super) fn bounds(
    At { text, at, least }: At<'_>,
    usual: Option<&Usual<'_>>,
    tlds: &mut impl TldLookup,
    any_tld: bool,
) -> Result<Bare, (Span, SkipReason)> {
    let (local, word) = match usual {
        Some(usual) => (usual.local(), usual.word()),
        None => (local_before(text, at, least, tlds), word_after(text, at + 1)),
    };
    let mut start = local.start;
    let pass = |reason| Err((Span::new(start, word.end), reason));
    let after = text.get(word.end).copied();
    if after == Some(b'@') || at > least && start == at && text[at - 1] == b'@' {
        return pass(SkipReason::SeveralAtSigns);
    }
    if word.end == at + 1 {
        return pass(match (start == at, after) {
            (false, Some(b'[')) => SkipReason::Literal,
            (true, _) => SkipReason::Alone,
            _ => SkipReason::Incomplete,
        });
    }
    if local.template {
        return pass(SkipReason::Template);
    }
    if start == at {
        return pass(SkipReason::Handle);
    }
    if start > least && text[start - 1] == b'@' {
        return pass(SkipReason::SeveralAtSigns);
    }
    let reason = context(text, start, word.end);
    // What was cut off in front may be a part of a password.
    let of_run = || if local.run < start { context(text, local.run, word.end) } else { None };
    if let Some(reason) = reason.or_else(of_run) {
        return pass(reason);
    }
    let (end, whole, is_slip) = match match_tld(&text[at + 1..word.end], &word, tlds) {
        TldMatch::Known => (word.end, true, false),
        // ‘…@host.org.Then’: the sentence goes on without a space.
        TldMatch::KnownUpTo(shorter) => (at + 1 + shorter, false, false),
        TldMatch::Typo => (word.end, true, true),
        TldMatch::None(_) if any_tld && word.has_two_labels() => (word.end, true, false),
        TldMatch::None(reason) => return pass(reason),
    };
    let domain = &text[at + 1..end];
    let bad_dots = text[start] != b'"' && (local.double_dot || text[at - 1] == b'.');
    if let Some(behind) = local.behind_script
        && domain.is_ascii()
    {
        start = behind;
    }
    if bad_dots || start == at || at - start > 64 || domain.len() > 253 {
        return Err((Span::new(start, word.end), SkipReason::Malformed));
    }
    let plain = local.seen != 0 && (local.seen | word.seen) & HIGH == 0;
    let scan = (plain && whole && local.run == start).then(|| Scan::of(at - start, local.seen, true));
    Ok(Bare { span: Span::new(start, end), scan, is_slip })
}

/// What may hold an encoded address around `at`: the word it stands in.
pub(super) fn window(text: &[u8], at: usize, least: usize) -> Span {
    window_by(text, at, least, |b| b.is_ascii_whitespace() || matches!(b, b'"' | b'<' | b'>' | b'\''))
}

/// The same where breaks of words may stand inside: tags do not border it.
pub(super) fn window_of_markup(text: &[u8], at: usize, least: usize) -> Span {
    window_by(text, at, least, |b| b.is_ascii_whitespace() || matches!(b, b'"' | b'\''))
}

fn window_by(text: &[u8], at: usize, least: usize, is_border: impl Fn(&u8) -> bool) -> Span {
    let from = at.saturating_sub(400).max(least);
    let start = text[from..at].iter().rposition(&is_border).map_or(from, |i| from + i + 1);
    let to = (at + 400).min(text.len());
    let end = text[at..to].iter().position(is_border).map_or(to, |i| at + i);
    Span::new(start, end)
}
