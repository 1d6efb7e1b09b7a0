/// A mark of sixteen bits that a domain or a word gives by its length and four of its octets. Most that are on no list leave
/// at this mark, without a look-up.
#[inline]
pub(crate) fn mark_of(domain: &[u8]) -> usize {
    let at = |place: usize| domain.get(place).copied().unwrap_or(0) as usize;
    let middle = domain.len() / 2;
    (at(0) * 2_053 + at(1) * 509 + at(2) * 7_919 + at(middle) * 31 + domain.len() * 4_099) & 65_535
}
