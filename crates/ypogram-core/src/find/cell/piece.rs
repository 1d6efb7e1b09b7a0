//! An address in a cell, and what stood around it.

use crate::find::cell::peel::Peeled;
use crate::find::cell::tokens::Words;
use crate::find::cell::trim::trimmed;
use crate::model::codes::{Code, CodeSet};
use crate::model::found::Form;
use crate::model::repair::Repairs;
use crate::model::span::Span;
use crate::syntax::wrapping::Wrapping;
use smallvec::SmallVec;

/// An address in the making: ranges of the decoded cell.
#[derive(Clone, Debug)]
pub(super) struct Piece {
    pub(super) as_found: Span,
    pub(super) text: Span,
    pub(super) form: Form,
    pub(super) repairs: Repairs,
    pub(super) codes: CodeSet,
    /// What the codes are about.
    pub(super) marked: Option<Span>,
    pub(super) name: Option<Span>,
    pub(super) remark: SmallVec<[Span; 2]>,
    /// What was probably meant, and what that changes.
    pub(super) meant: Option<(Vec<u8>, &'static str)>,
}

impl Piece {
    pub(super) fn of(as_found: Span, peeled: Peeled) -> Self {
        Piece {
            as_found,
            text: peeled.text,
            form: peeled.form,
            repairs: peeled.repairs,
            codes: CodeSet::EMPTY,
            marked: None,
            name: None,
            remark: SmallVec::new(),
            meant: None,
        }
    }

    /// A text without an @.
    pub(super) fn without_address(text: Span) -> Self {
        Piece { form: Form::None, ..Piece::of(text, Peeled::of(text)) }
    }

    pub(super) fn mark(&mut self, code: Code, marked: Span) {
        self.codes.insert(code);
        self.marked = Some(marked);
    }

    /// Takes the words beside it for a name.
    pub(super) fn named(&mut self, name: Span, angle: bool) {
        let wrapping = if angle { Wrapping::NamedAngle } else { Wrapping::Named };
        self.repairs = self.repairs.union(wrapping.repairs());
        self.form = wrapping.form();
        self.name = Some(name);
    }

    /// Notes that a label in front of it was left out.
    pub(super) fn labelled(&mut self) {
        self.repairs = self.repairs.union(Wrapping::Labelled.repairs());
        let is_less = matches!(self.form, Form::Plain | Form::Marked | Form::WithTelephone);
        self.form = if is_less { Wrapping::Labelled.form() } else { self.form };
    }

    /// Notes that signs beside it were left out that say nothing.
    pub(super) fn note_signs(&mut self) {
        self.repairs = self.repairs.union(Wrapping::Marked.repairs());
        self.form = if self.form == Form::Plain { Wrapping::Marked.form() } else { self.form };
    }

    /// Adds the words that stand beside those which touch it.
    pub(super) fn with_other_words(&mut self, text: &[u8], words: Words) {
        let [before, after] = [words.before, words.after].map(|span| trimmed(text, span));
        if !before.is_empty() {
            self.remark.insert(0, before);
        }
        self.remark.extend(Some(after).filter(|after| !after.is_empty()));
    }

    /// Takes the words beside it for something else.
    pub(super) fn with_words(&mut self, code: Code, words: impl IntoIterator<Item = Span>) {
        self.remark.extend(words);
        let marked = self.remark.first().copied().unwrap_or(self.text);
        self.mark(code, marked);
        self.repairs = self.repairs.union(Wrapping::WithinText.repairs());
        self.form = Wrapping::WithinText.form();
    }
}

/// The addresses of a cell: hardly ever more than one.
pub(super) type Pieces = SmallVec<[Piece; 2]>;
