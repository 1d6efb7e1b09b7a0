//! A plain address, and the parts of it that are asked for most.

use crate::judge::summary_key::SummaryKey;

/// A plain address that is a whole cell, or all that is wanted of one.
#[derive(Clone, Copy, Debug)]
pub struct Plain<'a> {
    /// What it has in common with others.
    pub summary_key: SummaryKey,
    /// Its standard form, and what happens to stand behind it.
    pub(super) letters: &'a [u8],
    pub(super) len: usize,
    /// Where the @ stands in it.
    pub(super) at: usize,
    /// Its key under the rule that was asked for, where that is not the standard form, what stands behind it, and how many bytes
    /// the key has.
    pub(super) key: Option<(&'a [u8], usize)>,
}

impl<'a> Plain<'a> {
    /// The address in standard form.
    #[inline]
    pub fn address(&self) -> &'a [u8] {
        &self.letters[..self.len]
    }

    /// The address in standard form and more bytes of no meaning behind it, so that it can be copied in steps of fixed width.
    #[inline]
    pub fn address_and_room(&self) -> &'a [u8] {
        self.letters
    }

    /// Where the @ stands in the address.
    #[inline]
    pub fn at(&self) -> usize {
        self.at
    }

    /// How many bytes the address has.
    #[inline]
    pub fn bytes(&self) -> usize {
        self.len
    }

    /// The local part in standard form.
    #[inline]
    pub fn local_part(&self) -> &'a [u8] {
        &self.letters[..self.at]
    }

    /// The domain in standard form.
    #[inline]
    pub fn domain(&self) -> &'a [u8] {
        &self.letters[self.at + 1..self.len]
    }

    /// The key under the rule that was asked for.
    #[inline]
    pub fn key(&self) -> &'a [u8] {
        self.key.map_or_else(|| self.address(), |(key, bytes)| &key[..bytes])
    }

    /// The same where it is not the standard form, with more bytes of no meaning behind it; and how many bytes the key has.
    #[inline]
    pub fn key_apart(&self) -> Option<(&'a [u8], usize)> {
        self.key
    }
}
