//! Words and phrases that stand beside addresses in cells.

pub(crate) mod cell_words;
pub(crate) mod contact_remark;
pub(crate) mod fast;
