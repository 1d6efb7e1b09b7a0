//! Placeholders that a program fills in, where an address would stand: `%s@host.org`, `{user}.name@host.org`.

/// Whether what stands in front of an @, the end of `text`, is filled in by a program; the run of its characters starts at `run`.
pub(super) fn is_one(text: &[u8], run: usize) -> bool {
    let (before, run) = text.split_at(run);
    is_variable(run) || is_format(before, run) || is_in_braces(run)
}

/// `$user`, `%USER%`, `__USER__`.
fn is_variable(run: &[u8]) -> bool {
    let is_name = |name: &[u8]| {
        !name.is_empty() && name.iter().all(|&b| b.is_ascii_alphanumeric() || matches!(b, b'_' | b'.' | b'-'))
    };
    let of_shell = memchr::memrchr(b'$', run).is_some_and(|sign| {
        is_name(&run[sign + 1..]) && run[..sign].last().is_none_or(|b| !b.is_ascii_alphanumeric())
    });
    of_shell || matches!(run, [b'%', name @ .., b'%'] | [b'_', b'_', name @ .., b'_', b'_'] if is_name(name))
}

/// `%s`, `%-5d`, `%1$s`, `%(name)s`.
fn is_format(before: &[u8], run: &[u8]) -> bool {
    let is_conversion = |letter: Option<&u8>| matches!(letter, Some(b'd' | b'i' | b's' | b'u' | b'v' | b'x'));
    let ends = |rest: &[u8]| rest.first().is_none_or(|b| !b.is_ascii_alphanumeric() && *b != b'%');
    let converts = |rest: &[u8]| {
        let number = rest.iter().take_while(|b| b.is_ascii_digit() || matches!(b, b'-' | b'$' | b'.' | b'0'));
        let rest = &rest[number.count()..];
        is_conversion(rest.first()) && ends(&rest[1..])
    };
    let named = before.ends_with(b")") && is_conversion(run.first()) && ends(&run[1..]) && {
        let from = before.len().saturating_sub(60);
        memchr::memmem::rfind(&before[from..], b"%(").is_some()
    };
    named || memchr::memchr_iter(b'%', run).any(|sign| converts(&run[sign + 1..]))
}

/// `{user}.name`: a placeholder in braces, and what is joined to it.
fn is_in_braces(run: &[u8]) -> bool {
    let Some(close) = memchr::memrchr(b'}', run) else { return false };
    let is_joined = matches!(run.get(close + 1), None | Some(b'.' | b'-' | b'_' | b'+'));
    is_joined && memchr::memrchr(b'{', &run[..close]).is_some()
}
