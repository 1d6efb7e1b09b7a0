//! Finds addresses among other words: looks for an @ first, and around it after.

mod around;
mod candidates;
mod context;
mod glued;
mod hidden;
mod hidden_marks;
mod hit;
mod identifiers;
mod judging;
mod local;
mod local_before;
mod obfuscated;
mod remote;
mod scripts;
mod skip_reason;
mod spaced;
mod template;
mod tld_lookup;
mod tld_match;
mod usual;
mod word_after;
mod wrapping;

use std::borrow::Cow;

use crate::characters::decoded::{self, Decoded};
use crate::judge::quick::Judge;
use crate::model::codes::{Code, CodeSet};
use crate::model::found::{Form, Place};
use crate::model::repair::{Repair, Repairs};
use crate::model::span::Span;
use crate::policy::job_policy::Policy;
use around::{At, Bare};
use candidates::{Candidate, CandidateScanner};
use hidden::Hidden;
pub use hit::{Hit, JudgedMatch, LinePosition, Options, ScanEvent, Seen};
pub(crate) use scripts::is_apart_from_ascii;
pub use skip_reason::SkipReason;
use tld_lookup::TldLookup;
pub(crate) use usual::Usual;
use usual::{Surroundings, TOGETHER};
use wrapping::Wrapped;
use ypogram_bytes::BLOCK;

/// Calls `see` with everything in `text` that has an @ in `body`, from left to right. What stands outside `body` is only
/// looked at to find where something ends that reaches over its edge.
///
/// ```
/// use ypogram_core::text::{self, Seen};
/// use ypogram_core::Policy;
/// let line = b"Ask ada@fernhollow.org, or @bea on the chat (icon@2x.png).";
/// let mut told = Vec::new();
/// text::look(line, 0..line.len(), &Policy::default(), text::Options::default(), |seen| {
///     told.push(match seen {
///         Seen::Match(hit) => String::from_utf8_lossy(&hit.text).into_owned(),
///         Seen::Skipped(_, reason) => reason.word().to_owned(),
///     });
/// });
/// assert_eq!(told, ["ada@fernhollow.org", "handle", "file-name"]);
/// ```
pub fn look<'a>(
    text: &'a [u8],
    body: std::ops::Range<usize>,
    policy: &Policy,
    options: Options,
    mut see: impl FnMut(Seen<'a>),
) {
    look_by(text, body, &mut &*policy, options, |_, met| match met {
        ScanEvent::Seen(seen, _) => see(seen),
        ScanEvent::Judged(..) => unreachable!("there is no judge"),
    });
}

/// Like [`look`], for one text after the other: `judge` remembers the TLDs of the domains it has seen, and judges what is plain on
/// the way. Gives how many line breaks there are in `body`.
///
/// ```
/// use ypogram_core::text::{self, ScanEvent};
/// use ypogram_core::{Hasher, Judge, Policy, Verdict};
/// let policy = Policy::default();
/// let mut judge = Judge::new(&policy, Hasher::with_key(1));
/// let line = b"Whoever wants to see the moons of Jupiter asks ada@fernhollow.org for a place at the large telescope.";
/// text::look_with(line, 0..line.len(), &mut judge, text::Options::default(), |judge, met| {
///     let ScanEvent::Judged(within) = met else { panic!("{met:?}") };
///     assert_eq!(within.bare.of(line), b"ada@fernhollow.org");
///     assert_eq!(within.summary_key.summary(&policy).verdict, Verdict::Accept);
/// });
/// ```
pub fn look_with<'a, 'p>(
    text: &'a [u8],
    body: std::ops::Range<usize>,
    judge: &mut Judge<'p>,
    options: Options,
    see: impl FnMut(&mut Judge<'p>, ScanEvent<'a>),
) -> usize {
    look_by(text, body, judge, options, see)
}

fn look_by<'a, E: TldLookup>(
    text: &'a [u8],
    body: std::ops::Range<usize>,
    tlds: &mut E,
    options: Options,
    mut see: impl FnMut(&mut E, ScanEvent<'a>),
) -> usize {
    let seen = body.start.saturating_sub(REACH)..body.end;
    // Hidden ones are found first, so that the @ in one of them is not passed over as well.
    let hidden = Hidden::find(text, seen.clone(), options, tlds.policy());
    let breaks_in_front = memchr::memchr_iter(b'\n', &text[seen.start..body.start]).count() as isize;
    let mut signs = CandidateScanner::new(text, seen.into());
    let mut scan =
        Scan { looker: TextScanner { text, tlds, options }, hidden, done: 0, body, breaks_in_front };
    // In a text as short as most cells are, nothing is usual.
    let mut surroundings = (text.len() >= BLOCK).then(Surroundings::none);
    loop {
        // Some at a time: waiting for what is known of one domain does not wait for the others.
        let mut together = [Candidate::default(); TOGETHER];
        let count = signs.fill(&mut together);
        let together = &together[..count];
        let mut usuals = [const { None }; TOGETHER];
        if let Some(surroundings) = &mut surroundings {
            surroundings.fill(text, together);
            for (nth, sign) in together.iter().enumerate() {
                usuals[nth] = surroundings.usual(nth, sign.at).map(|usual| scan.looker.tlds.fetch(usual));
            }
        }
        for (sign, usual) in together.iter().zip(&usuals) {
            scan.sign(*sign, usual.as_ref(), &mut see);
        }
        if count < TOGETHER {
            break;
        }
    }
    scan.end(signs.line_breaks() as isize, &mut see)
}

/// A look through a text.
struct Scan<'a, 'e, E> {
    looker: TextScanner<'a, 'e, E>,
    hidden: Hidden<'a>,
    /// Where what was taken last ends; it is not looked at again.
    done: usize,
    /// What is taken in front of the body is not reported, but what follows does not reach back into it.
    body: std::ops::Range<usize>,
    breaks_in_front: isize,
}

impl<'a, E: TldLookup> Scan<'a, '_, E> {
    /// Looks at what stands around a sign.
    #[inline(always)]
    fn sign(
        &mut self,
        Candidate { at, line_breaks }: Candidate,
        usual: Option<&Usual<'_>>,
        see: &mut impl FnMut(&mut E, ScanEvent<'a>),
    ) {
        let near = LinePosition { at, line_breaks: line_breaks as isize - self.breaks_in_front };
        self.report_hidden(near, see);
        if at < self.done {
            return;
        }
        let usual = usual.filter(|usual| usual.place > self.done);
        let seen = match usual.map(|usual| self.looker.at_once(usual, self.done, near.line_breaks)) {
            Some(AtOnce::Judged(within)) => {
                self.done = within.bare.end;
                if at >= self.body.start {
                    see(self.looker.tlds, ScanEvent::Judged(within));
                }
                return;
            }
            Some(AtOnce::Skipped(span, reason)) => Seen::Skipped(span, reason),
            Some(AtOnce::Odd) | None => match self.looker.closely(at, self.done, usual) {
                Some(seen) => seen,
                None => return,
            },
        };
        if let Seen::Match(hit) = &seen {
            self.done = hit.bare.end;
        }
        if at >= self.body.start {
            see(self.looker.tlds, ScanEvent::Seen(self.hidden.told(at, seen), near));
        }
    }

    /// Reports what is hidden up to there.
    #[inline]
    fn report_hidden(&mut self, near: LinePosition, see: &mut impl FnMut(&mut E, ScanEvent<'a>)) {
        while self.hidden.has_more()
            && let Some((place, seen)) = self.hidden.next_up_to(near.at, &mut self.done)
        {
            if place >= self.body.start {
                see(self.looker.tlds, ScanEvent::Seen(seen, near));
            }
        }
    }

    /// Reports what is left, and gives how many of so many line breaks are in the body.
    fn end(mut self, line_breaks: isize, see: &mut impl FnMut(&mut E, ScanEvent<'a>)) -> usize {
        let line_breaks = line_breaks - self.breaks_in_front;
        self.report_hidden(LinePosition { at: self.body.end, line_breaks }, see);
        line_breaks as usize
    }
}

/// Whether `text` has an @, or what may stand for one; [`find`] finds nothing where it has not.
pub fn may_hold_one(text: &[u8]) -> bool {
    memchr::memchr3(b'@', b'%', b'&', text).is_some() || memchr::memchr(b'\xEF', text).is_some()
}

/// Calls `take` with every address in `text`, from left to right.
pub fn find<'a>(text: &'a [u8], policy: &Policy, mut take: impl FnMut(Hit<'a>)) {
    look(text, 0..text.len(), policy, Options::default(), |seen| {
        if let Seen::Match(hit) = seen {
            take(hit);
        }
    });
}

/// Bytes that have to be seen on both sides of an @ so that an address in any form is seen whole.
pub const REACH: usize = 2048;

/// What can be said at once of what stands around an @.
enum AtOnce {
    Judged(JudgedMatch),
    Skipped(Span, SkipReason),
    /// It has to be looked at more closely.
    Odd,
}

struct TextScanner<'a, 'e, E> {
    text: &'a [u8],
    tlds: &'e mut E,
    options: Options,
}

impl<'a, E: TldLookup> TextScanner<'a, '_, E> {
    /// What can be said at once of what stands around an @, in front of which there are so many line breaks of the body.
    #[inline(always)]
    fn at_once(&mut self, usual: &Usual<'_>, least: usize, mut line_breaks: isize) -> AtOnce {
        let bare = usual.span();
        let free = usual.stands_free(self.text);
        if !free {
            if decoded::goes_on_in_markup(self.text, bare.start, bare.end) {
                return AtOnce::Odd;
            }
            if let Some(reason) = context::context(self.text, bare.start, bare.end) {
                return AtOnce::Skipped(bare, reason);
            }
        }
        let Some(summary_key) = self.tlds.judge_at_once(usual) else { return AtOnce::Odd };
        let mut wrapped = Wrapped::not(bare);
        if !free {
            wrapped = wrapping::of(self.text, bare, least);
            // A line may end between a name and the address.
            let between = &self.text[wrapped.as_found.start..bare.start];
            line_breaks -= memchr::memchr_iter(b'\n', between).count() as isize;
        }
        let Wrapped { as_found, form, name, .. } = wrapped;
        let (plus, dots) = (usual.plus().is_some(), usual.has_dots());
        AtOnce::Judged(JudgedMatch {
            as_found,
            bare,
            form,
            name,
            at: usual.at(),
            line_breaks,
            summary_key,
            plus,
            dots,
        })
    }

    /// What the sign at `at` belongs to; none where it is no @ in any form.
    #[inline]
    fn closely(&mut self, at: usize, least: usize, usual: Option<&Usual<'_>>) -> Option<Seen<'a>> {
        match self.text[at] {
            b'@' => Some(self.at_sign(at, least, usual)),
            _ => self.encoded(at, least),
        }
    }

    /// What the @ at `at` belongs to.
    fn at_sign(&mut self, at: usize, least: usize, usual: Option<&Usual<'_>>) -> Seen<'a> {
        let bounds =
            around::bounds(At { text: self.text, at, least }, usual, self.tlds, self.options.any_tld);
        let (Ok(Bare { span, .. }) | Err((span, _))) = bounds;
        if decoded::goes_on_in_markup(self.text, span.start, span.end)
            && let Some(hit) = self.in_markup(at, least)
        {
            return Seen::Match(hit);
        }
        match bounds {
            Ok(bare) => Seen::Match(self.hit(bare, least)),
            Err((span, reason)) => match spaced::around(self.text, at, least, self.tlds) {
                Some(spaced) => {
                    let mut hit = self.hit_of(spaced.decoded, spaced.span, least, Form::Spaced);
                    if spaced.in_sentence {
                        hit.codes.insert(Code::SpacedAt);
                    }
                    Seen::Match(hit)
                }
                None => Seen::Skipped(span, reason),
            },
        }
    }

    /// The address at `bare` with what it is wrapped in.
    fn hit(&self, bare: Bare, least: usize) -> Hit<'a> {
        let Bare { span: bare, scan, is_slip } = bare;
        let wrapped = wrapping::of(self.text, bare, least);
        let mut repairs = Repairs::NONE;
        wrapped.repairs(&mut repairs);
        let escaped = if wrapped.mailto { self.undo_escapes(bare, &mut repairs) } else { None };
        let scan = scan.filter(|_| escaped.is_none());
        let hidden = || if scan.is_some() { None } else { self.undo_hidden(bare, &mut repairs) };
        let (text, place) = match escaped.or_else(hidden) {
            Some((text, places)) => (Cow::Owned(text), Place::Each(places)),
            None => (Cow::Borrowed(bare.of(self.text)), Place::From(bare.start)),
        };
        let Wrapped { as_found, form, name, .. } = wrapped;
        let codes = codes_of_slip(is_slip);
        Hit { text, as_found, bare, form, name, repairs, place, codes, scan }
    }

    /// The address around the @ at `at`, some characters of which are written as a program reads them.
    fn in_markup(&mut self, at: usize, least: usize) -> Option<Hit<'a>> {
        let window = around::window_of_markup(self.text, at, least);
        let decoded = decoded::undo_markup(window.of(self.text), window.start);
        self.in_decoded(decoded, at, least)
    }

    /// The address at `bare`, which stands in a URI, without escapes; none where it has none, or would be no address without them.
    fn undo_escapes(&self, bare: Span, repairs: &mut Repairs) -> Option<(Vec<u8>, Vec<usize>)> {
        let raw = bare.of(self.text);
        memchr::memchr(b'%', raw)?;
        let decoded = decoded::undo_percent(raw, bare.start);
        let is_one = memchr::memchr_iter(b'@', &decoded.text).count() == 1;
        let is_text =
            std::str::from_utf8(&decoded.text).is_ok_and(|text| !text.chars().any(char::is_control));
        if decoded.text.len() == raw.len() || !is_one || !is_text {
            return None;
        }
        *repairs = repairs.union(decoded.repairs);
        Some((decoded.text, decoded.places))
    }

    /// The address at `bare` without characters that show nothing and with ordinary ones for full-width ones.
    fn undo_hidden(&self, bare: Span, repairs: &mut Repairs) -> Option<(Vec<u8>, Vec<usize>)> {
        let raw = bare.of(self.text);
        let decoded = if raw.is_ascii() { None } else { decoded::decode(raw) }?;
        *repairs = repairs.union(decoded.repairs);
        Some((decoded.text, decoded.places.iter().map(|place| place + bare.start).collect()))
    }

    /// What an encoded @ (`%40`, `&#64;`, a full-width one) at `at` belongs to; none where nothing of the kind stands there.
    fn encoded(&mut self, at: usize, least: usize) -> Option<Seen<'a>> {
        let rest = &self.text[at..];
        let window = || around::window(self.text, at, least);
        let decoded = match rest[0] {
            b'%' if rest.starts_with(b"%40") => decoded::undo_percent(window().of(self.text), window().start),
            b'&' if decoded::is_at_sign(rest) => decoded::undo_markup(window().of(self.text), window().start),
            b'%' | b'&' => return None,
            _ => {
                let mut decoded = decoded::decode(window().of(self.text))?;
                decoded.places.iter_mut().for_each(|place| *place += window().start);
                decoded
            }
        };
        Some(Seen::Match(self.in_decoded(decoded, at, least)?))
    }

    /// The address around what stood at `at` before it was decoded.
    fn in_decoded(&mut self, decoded: Decoded, at: usize, least: usize) -> Option<Hit<'a>> {
        let sign = decoded.places.iter().position(|&place| place == at)?;
        let any_tld = self.options.any_tld;
        let bare =
            around::bounds(At { text: &decoded.text, at: sign, least: 0 }, None, self.tlds, any_tld).ok()?;
        let mut hit = self.hit_of(decoded, bare.span, least, Form::WithinText);
        hit.codes = codes_of_slip(bare.is_slip);
        Some(hit)
    }

    /// The address at `bare` of what was decoded, in what it is wrapped in; it has `form` where that is nothing.
    fn hit_of(&self, decoded: Decoded, bare: Span, least: usize, form: Form) -> Hit<'a> {
        let Decoded { text, places, mut repairs } = decoded;
        let in_text = Span::new(places[bare.start], places[bare.end]);
        let wrapped = wrapping::of(self.text, in_text, least);
        wrapped.repairs(&mut repairs);
        let form = match wrapped.form {
            Form::WithinText => form,
            form => form,
        };
        if form == Form::Spaced {
            repairs.insert(Repair::SpaceAroundAt);
        }
        Hit {
            text: Cow::Owned(text[bare.start..bare.end].to_vec()),
            as_found: wrapped.as_found,
            bare: in_text,
            form,
            name: wrapped.name,
            repairs,
            place: Place::Each(places[bare.start..=bare.end].to_vec()),
            codes: CodeSet::EMPTY,
            scan: None,
        }
    }
}

/// An unknown TLD that is likely a slip of another is reported as that.
fn codes_of_slip(is_slip: bool) -> CodeSet {
    if is_slip { CodeSet::of(&[Code::TypingSlip]) } else { CodeSet::EMPTY }
}
