//! What an address in running text is wrapped in: angle brackets, a display name, `mailto:`.

use crate::characters::bytes;
use crate::model::found::Form;
use crate::model::repair::{Repair, Repairs};
use crate::model::span::Span;
use crate::names::stands_between_names;

/// The address with its wrapping.
pub(super) struct Wrapped {
    pub(super) as_found: Span,
    pub(super) form: Form,
    pub(super) name: Option<Span>,
    pub(super) mailto: bool,
    angle: bool,
}

impl Wrapped {
    /// Nothing around the address at `bare`.
    pub(super) fn not(bare: Span) -> Self {
        Wrapped { as_found: bare, form: Form::WithinText, name: None, mailto: false, angle: false }
    }

    /// Adds the repairs that unwrapping makes.
    pub(super) fn repairs(&self, repairs: &mut Repairs) {
        for (made, repair) in [
            (self.mailto, Repair::Mailto),
            (self.angle, Repair::AngleBrackets),
            (self.name.is_some(), Repair::NameRemoved),
        ] {
            if made {
                repairs.insert(repair);
            }
        }
    }
}

/// The wrapping of the address at `bare`, which starts no earlier than `least`.
pub(super) fn of(text: &[u8], bare: Span, least: usize) -> Wrapped {
    let mut wrapped = Wrapped::not(bare);
    let before = &text[least.min(bare.start)..bare.start];
    if before.ends_with(b":")
        && before.len() >= 7
        && before[before.len() - 7..].eq_ignore_ascii_case(b"mailto:")
    {
        wrapped.mailto = true;
        wrapped.form = Form::Mailto;
        wrapped.as_found = Span::new(bare.start - 7, query_end(text, bare.end));
    }
    let Span { start, end } = wrapped.as_found;
    if !matches!(text.get(end), Some(b'>' | b' ')) {
        return wrapped;
    }
    let inner_space = text[end..].iter().take(8).take_while(|b| **b == b' ').count();
    let close = end + inner_space;
    if text.get(close) != Some(&b'>') || !text[least..start].trim_ascii_end().ends_with(b"<") {
        return wrapped;
    }
    let open = least + text[least..start].iter().rposition(|&b| b == b'<').expect("it stands there");
    wrapped.angle = true;
    wrapped.as_found = Span::new(open, close + 1);
    wrapped.form = if wrapped.mailto { Form::Mailto } else { Form::Angle };
    if let Some((whole, name)) = name_before(text, open, least) {
        wrapped.form = Form::Named;
        wrapped.name = Some(name);
        wrapped.as_found.start = whole;
    }
    wrapped
}

/// Behind `mailto:ada@host` a query may follow.
fn query_end(text: &[u8], end: usize) -> usize {
    if text.get(end) != Some(&b'?') {
        return end;
    }
    let stops = |b: &u8| b.is_ascii_whitespace() || matches!(b, b'"' | b'\'' | b'<' | b'>' | b')' | b']');
    text[end..].iter().take(1024).position(stops).map_or(text.len().min(end + 1024), |i| end + i)
}

/// The display name before the angle bracket at `open`: where it starts with its quotes, and the name itself.
fn name_before(text: &[u8], open: usize, least: usize) -> Option<(usize, Span)> {
    let from = open.saturating_sub(96).max(least);
    let before = &text[from..open];
    let trimmed = before.trim_ascii_end();
    let end = from + trimmed.len();
    if trimmed.ends_with(b"\"") {
        let start = from + trimmed[..trimmed.len() - 1].iter().rposition(|&b| b == b'"')?;
        let name = Span::new(start + 1, end - 1);
        return (!name.is_empty()).then_some((start, name));
    }
    // Backwards over words that are names: with a capital, or a small particle between such.
    let (mut start, mut rest) = (None, trimmed);
    for nth_last in 0..6 {
        while let [before @ .., b' ' | b'\t'] = rest {
            rest = before;
        }
        let word_from = rest.iter().rposition(|&b| ends_words(b)).map_or(0, |i| i + 1);
        let word = &rest[word_from..];
        if is_name(word) {
            start = Some(bytes::offset_in(text, word));
        } else if nth_last == 0 || !std::str::from_utf8(word).is_ok_and(stands_between_names) {
            break;
        }
        rest = &rest[..word_from];
    }
    start.map(|start| (start, Span::new(start, end)))
}

/// Whether a display name does not reach over `b`, or only its words do not.
fn ends_words(b: u8) -> bool {
    matches!(b, b' ' | b'\t' | b'\n' | b'\r' | b',' | b';' | b':' | b'<' | b'>' | b'(' | b')' | b'"' | b'|')
}

/// Whether a word has the capital of a name.
fn is_name(word: &[u8]) -> bool {
    bytes::first_char(word).is_some_and(|(c, _)| c.is_uppercase())
        && !word.contains(&b'@')
        && !word.contains(&b'=')
}
