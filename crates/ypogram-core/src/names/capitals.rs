//! Proper capitals of names.

use super::is_particle;

/// Family names that are written with a second capital behind `Mac`; others that start so are not (Mackie, Machado).
const MAC_NAMES: [&str; 24] = [
    "macallister",
    "macarthur",
    "macaulay",
    "macbeth",
    "maccallum",
    "macdonald",
    "macdougall",
    "macewan",
    "macfarlane",
    "macgowan",
    "macgregor",
    "macinnes",
    "macintosh",
    "macintyre",
    "macisaac",
    "maclaren",
    "maclean",
    "macleod",
    "macmillan",
    "macnab",
    "macneil",
    "macpherson",
    "macquarie",
    "mactavish",
];

/// One word of a name with proper capitals: `mcintyre` as `McIntyre`, `o'neil` as `O'Neil`, `anna-lena` as `Anna-Lena`.
///
/// ```
/// use ypogram_core::names::capitals;
/// assert_eq!(capitals("MCINTYRE"), "McIntyre");
/// assert_eq!(capitals("d'angelo"), "D'Angelo");
/// assert_eq!(capitals("ærø-øst"), "Ærø-Øst");
/// ```
pub fn capitals(word: &str) -> String {
    let is_plain = word.bytes().all(|b| b.is_ascii_lowercase());
    if is_plain && !["mc", "mac", "ij"].iter().any(|start| word.starts_with(start)) {
        let mut out = word.to_owned();
        if let Some(first) = out.get_mut(..1) {
            first.make_ascii_uppercase();
        }
        return out;
    }
    let lower = word.to_lowercase();
    let mut out = String::with_capacity(lower.len());
    let mut piece = String::new();
    for c in lower.chars() {
        piece.push(c);
        if matches!(c, '-' | '\'' | '’' | '.') {
            capitalise(&piece, &mut out);
            piece.clear();
        }
    }
    // What follows an apostrophe alone is an ending, as in `Ada's`.
    let after_apostrophe = out.ends_with(['\'', '’']);
    if after_apostrophe && piece.chars().count() == 1 {
        out.push_str(&piece)
    } else {
        capitalise(&piece, &mut out)
    }
    out
}

fn capitalise(piece: &str, out: &mut String) {
    let second = match piece {
        _ if piece.starts_with("mc") && piece.chars().count() > 3 => Some(2),
        _ if piece.starts_with("mac") && MAC_NAMES.contains(&piece) => Some(3),
        // The Dutch ij is one letter.
        _ if piece.starts_with("ij") && piece.len() > 3 => Some(1),
        _ => None,
    };
    for (at, c) in piece.char_indices() {
        if at == 0 || Some(at) == second { out.extend(c.to_uppercase()) } else { out.push(c) }
    }
}

/// A cell with one or more names brought to proper capitals. Words in mixed case stay as somebody wrote them; a particle
/// stays small before another word, at the start only where the cell is a `family` name.
///
/// ```
/// use ypogram_core::names::title_case;
/// assert_eq!(title_case("ADA DE LA CRUZ", false), "Ada de la Cruz");
/// assert_eq!(title_case("VAN DER BERG", true), "van der Berg");
/// assert_eq!(title_case("van morrison", false), "Van Morrison");
/// assert_eq!(title_case("john mcIntyre iii", false), "John mcIntyre III");
/// ```
pub fn title_case(cell: &str, family: bool) -> String {
    let mut out = String::with_capacity(cell.len());
    let mut rest = cell;
    let mut first = true;
    while !rest.is_empty() {
        let space = rest.len() - rest.trim_start().len();
        out.push_str(&rest[..space]);
        rest = &rest[space..];
        let end = rest.find(char::is_whitespace).unwrap_or(rest.len());
        let (word, after) = rest.split_at(end);
        let lower = word.to_lowercase();
        let mixed = word != lower && word != word.to_uppercase();
        let followed = !after.trim().is_empty();
        if mixed {
            out.push_str(word);
        } else if followed && is_particle(&lower) && (!first || family) {
            out.push_str(&lower);
        } else if matches!(&*lower, "ii" | "iii" | "iv") && !first {
            out.push_str(&lower.to_uppercase());
        } else {
            out.push_str(&capitals(word));
        }
        first = first && word.is_empty();
        rest = after;
    }
    out
}
