//! Users of other machines, which look like addresses and are none: remote paths, shell prompts, logins.

use crate::characters::bytes::ends_ignoring_case;

/// Whether what stands in `text` from `start` to `end` is a user on a host.
pub(super) fn is_user_on_host(text: &[u8], start: usize, end: usize) -> bool {
    let (before, behind) = (&text[..start], &text[end..]);
    match behind.first() {
        Some(b':') if is_remote_path(&text[start..end], &behind[1..]) || is_copied(before) => true,
        _ => is_prompt(before, behind) || is_logged_in_to(before),
    }
}

/// `git@host:group/project.git` and `git@host:project`, but not `ada@host.org:text` or `ada@host.org://`.
fn is_remote_path(user: &[u8], rest: &[u8]) -> bool {
    const KEEPERS: [&[u8]; 3] = [b"git@", b"hg@", b"svn@"];
    let rest = &rest[..rest.len().min(256)];
    let ends = |b: &u8| b.is_ascii_whitespace() || matches!(b, b'"' | b'\'' | b'<' | b'>' | b')' | b',');
    let end = rest.iter().position(|b| *b == b'/' || ends(b)).unwrap_or(rest.len());
    let is_kept = end > 0 && KEEPERS.iter().any(|keeper| user.starts_with(keeper));
    rest.get(end) == Some(&b'/') || rest[..end].ends_with(b".git") || is_kept || rest.starts_with(b"~")
}

/// `scp notes.txt ada@host:notes.txt`: a file on another machine, behind the command that copies it.
fn is_copied(before: &[u8]) -> bool {
    // A command stands on a line that people can read.
    let before = &before[before.len().saturating_sub(512)..];
    let line = &before[memchr::memrchr(b'\n', before).map_or(0, |at| at + 1)..];
    let command = line.trim_ascii_start();
    let command = command.strip_prefix(b"$ ").unwrap_or(command);
    [&b"scp "[..], b"rsync ", b"sftp "].iter().any(|copy| command.starts_with(copy))
}

/// Whether a shell waits for a command behind it: `ada@host:~$`, `[ada@host ~]$`, `ada@host ~ %`, `ada@host#`. In front of it
/// stands nothing on its line.
fn is_prompt(before: &[u8], behind: &[u8]) -> bool {
    let opens = before.last() == Some(&b'[');
    let before = if opens { &before[..before.len() - 1] } else { before };
    let is_first = matches!(before.last(), None | Some(b'\n'));
    if !is_first {
        return false;
    }
    let line = &behind[..memchr::memchr(b'\n', behind).unwrap_or(behind.len()).min(200)];
    // Where it works, with its bracket, and the sign.
    let (folder, sign) = match line {
        [b'#' | b'$', b' ', _, ..] => (&b"~"[..], line),
        [b' ', rest @ ..] => {
            let end = rest.iter().position(|b| matches!(b, b' ' | b']')).unwrap_or(rest.len());
            let (folder, rest) = rest.split_at(end);
            let rest = if opens { rest.strip_prefix(b"]").unwrap_or(b"") } else { rest };
            (folder, rest.trim_ascii_start())
        }
        _ => return false,
    };
    let is_folder = matches!(folder.first(), Some(b'~' | b'/')) || opens && !folder.is_empty();
    is_folder && matches!(sign.first(), Some(b'#' | b'$' | b'%')) && matches!(sign.get(1), None | Some(b' '))
}

/// `ssh ada@host`, `ssh -p 2222 ada@host`.
fn is_logged_in_to(before: &[u8]) -> bool {
    let mut before = before;
    for nth in 0..3 {
        let Some(rest) = before.strip_suffix(b" ") else { return false };
        let from = rest.iter().rposition(|b| b.is_ascii_whitespace()).map_or(0, |at| at + 1);
        let word = &rest[from..];
        if matches!(word, b"ssh" | b"scp" | b"sftp" | b"rsync" | b"mosh") {
            return true;
        }
        // What stands directly in front is the command, or the number of a port behind its option.
        let is_option = nth > 0 && word.first() == Some(&b'-') || word.iter().all(u8::is_ascii_digit);
        if !is_option || word.is_empty() {
            return false;
        }
        before = &rest[..from];
    }
    false
}

/// Whether a user and a password stand in front of a host and its port: `ada:secret@host.org:8080`.
pub(super) fn is_password(text: &[u8], start: usize, end: usize) -> bool {
    let is_glued = matches!(&text[..start], [.., b, b':'] if b.is_ascii_alphanumeric());
    let label = ["mail", "email", "e-mail", "mailto", "to", "cc", "from"];
    let is_label = || label.iter().any(|label| ends_ignoring_case(&text[..start - 1], label.as_bytes()));
    let [b':', rest @ ..] = &text[end..] else { return false };
    let digits = rest.iter().take_while(|b| b.is_ascii_digit()).count();
    is_glued && (2..=5).contains(&digits) && !is_label() && rest.get(digits).is_none_or(|b| *b != b':')
}
