//! One thing noticed about an address.

use std::borrow::Cow;

use crate::model::codes::Code;
use crate::model::span::Span;

/// One thing noticed about an address: what, where, and a sentence for people.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// What was noticed.
    pub code: Code,
    /// The bytes it is about, in the text that was judged.
    pub span: Span,
    /// A sentence, with the character or number it is about where there is one.
    pub message: Cow<'static, str>,
}

impl Finding {
    /// A finding with the sentence of the table.
    pub fn plain(code: Code, span: impl Into<Span>) -> Self {
        Finding { code, span: span.into(), message: code.info().sentence.into() }
    }

    /// A finding with a sentence of its own.
    pub fn told(code: Code, span: impl Into<Span>, message: impl Into<Cow<'static, str>>) -> Self {
        Finding { code, span: span.into(), message: message.into() }
    }
}
