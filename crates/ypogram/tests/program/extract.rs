//! `ypogram extract`: formats, rows, places, and bad input.

use std::io::Write as _;

use crate::{Place, table};

/// What came out, as `address|field|record|line|offset`.
fn told(csv: &str) -> Vec<String> {
    let cell = |row: &std::collections::BTreeMap<String, String>, name: &str| row[name].clone();
    table(csv)
        .iter()
        .map(|r| ["address", "field", "record", "line", "offset"].map(|name| cell(r, name)).join("|"))
        .collect()
}

pub(crate) fn gzip(bytes: &[u8]) -> Vec<u8> {
    let mut encoder = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
    encoder.write_all(bytes).unwrap();
    encoder.finish().unwrap()
}

pub(crate) fn utf16(text: &str) -> Vec<u8> {
    [0xFF, 0xFE].into_iter().chain(text.encode_utf16().flat_map(u16::to_le_bytes)).collect()
}

const MAIL: &str = "From: Ada Lovell <ada@h-works.org>\r\nTo: =?utf-8?q?Bea?= <bea@h-works.org>\r\nMessage-ID: <1.2@mx.h-works.org>\r\n\
    MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\nContent-Type: text/plain\r\n\r\nsee cleo@h-works.org\r\n\
    --x\r\nContent-Type: text/plain\r\nContent-Transfer-Encoding: base64\r\n\r\nZGFyYUBoLXdvcmtzLm9yZw==\r\n--x--\r\n";

#[test]
fn every_format_with_exact_places() {
    let rows: &[(&str, Vec<u8>, &[&str])] = &[
        ("notes.txt", b"a line\nask ada@h-works.org now\n".to_vec(), &["ada@h-works.org|||2|11"]),
        ("page.html", b"<p>x</p>\n<a href=\"mailto:ada@h-works.org\">bea&#64;h-works.org</a>".to_vec(),
            &["ada@h-works.org|||2|18", "bea@h-works.org|||2|42"]),
        ("list.csv", b"id,mail,notes\n1,ada@h-works.org,\"x\ny \"\"bea@h-works.org\"\"\"\n2,,\n3,cleo@h-works.org,\n".to_vec(),
            &["ada@h-works.org|mail|1|2|16", "bea@h-works.org|notes|1|3|39", "cleo@h-works.org|mail|3|5|64"]),
        ("data.json", b"{\"a\": {\"mail\": \"x\\nada@h-works.org\"},\n \"b\": [\"bea\\u0040h-works.org\", 7]}".to_vec(),
            &["ada@h-works.org|a.mail||1|19", "bea@h-works.org|b||2|46"]),
        ("data.jsonl", b"{\"m\":\"ada@h-works.org\"}\n\n{\"m\":\"bea@h-works.org\"}\n".to_vec(),
            &["ada@h-works.org|m|1|1|6", "bea@h-works.org|m|2|3|31"]),
        ("one.eml", MAIL.as_bytes().to_vec(),
            &["ada@h-works.org|from|1|1|6", "bea@h-works.org|to|1|2|40", "cleo@h-works.org|part 1|1|10|210", "dara@h-works.org|part 2|1|15|296"]),
        ("two.mbox", b"From ada@h-works.org Fri\nFrom: bea@h-works.org\n\nx\n\nFrom cleo@h-works.org Fri\nSubject: y\n\ndara@h-works.org\n".to_vec(),
            &["ada@h-works.org|envelope|1|1|5", "bea@h-works.org|from|1|2|31", "cleo@h-works.org|envelope|2|6|56", "dara@h-works.org|body|2|9|89"]),
        ("notes.txt.gz", gzip(b"one\nada@h-works.org\n"), &["ada@h-works.org|||2|4"]),
        ("list.csv.gz", gzip(b"mail\nada@h-works.org\n"), &["ada@h-works.org|mail|1|2|5"]),
        ("wide.txt", utf16("zwei\nfür ada@h-works.org\n"), &["ada@h-works.org|||2|20"]),
        ("wide.csv", utf16("id;mail;notes\n1;ada@h-works.org;\"für \u{1F989}\nbea@h-works.org\"\n2;;\n3;cleo@h-works.org;\n"), &["ada@h-works.org|mail|1|2|34", "bea@h-works.org|notes|1|3|82", "cleo@h-works.org|mail|3|5|128"]),
        ("a-table.txt", utf16("id;mail;notes\n1;ada@h-works.org;\"für \u{1F989}\nbea@h-works.org\"\n2;;\n3;cleo@h-works.org;\n"), &["ada@h-works.org|mail|1|2|34", "bea@h-works.org|notes|1|3|82", "cleo@h-works.org|mail|3|5|128"]),
        ("marked.txt", b"\xEF\xBB\xBFada@h-works.org".to_vec(), &["ada@h-works.org|||1|3"]),
        // Names and brackets on the line before, wherever a chunk starts.
        ("lines.txt", b"an open night\nAda\n<ada@h-works.org> and all the others who come along to see it\n<\nbea@h-works.org>, and cleo@h-works.org\n".to_vec(),
            &["ada@h-works.org|||2|14", "bea@h-works.org|||4|80", "cleo@h-works.org|||5|104"]),
    ];
    let files: Vec<(&str, &[u8])> = rows.iter().map(|(name, bytes, _)| (*name, &bytes[..])).collect();
    let place = Place::with(&files);
    for (name, _, expected) in rows {
        for extra in ["", "--threads 1 --chunk-bytes 64", "--threads 7 --chunk-bytes 7"] {
            let run = place.run(&format!("extract {name} -q {extra}"));
            assert_eq!(run.code, 0, "{name}: {}", run.stderr);
            assert_eq!(told(&run.stdout), *expected, "{name} {extra}");
        }
    }
    let odd = b"\0\xFF ada@h-works.org \xFE".to_vec();
    assert_eq!(told(&place.run_with("extract - --from text -q", odd).stdout), ["ada@h-works.org|||1|3"]);
    let run = place.run_with("extract - --from json -q --field a.mail", rows[3].1.clone());
    assert_eq!(told(&run.stdout).len(), 1, "only the key that was asked for");
}

#[test]
fn rows_in_every_shape() {
    let text = b"Ada Lovell <Ada@h-works.org>, ADA@h-works.org\nlong before bea@h-works.org long behind\n@dome icon@2x.png\n";
    let place = Place::with(&[
        ("t.txt", text),
        ("l.csv", b"id,m\n1,a1@h-works.org; b1@h-works.org\n2,none\n3,c1@h-works.org\n"),
    ]);
    assert_eq!(
        place.run("extract t.txt --to plain -q").stdout,
        "ada@h-works.org\nada@h-works.org\nbea@h-works.org\n"
    );
    let quoted = place
        .run_with("extract - --from csv --id id -q --columns id", "id,m\n\"a\"\"b, c\",a1@h-works.org\n");
    assert_eq!(quoted.stdout, "id\n\"a\"\"b, c\"\n");
    let unique = table(&place.run("extract t.txt --unique -q").stdout);
    let told: Vec<_> = unique
        .iter()
        .map(|r| [&r["address"], &r["count"], &r["name"]].map(|s| s.as_str()).join("|"))
        .collect();
    assert_eq!(told, ["ada@h-works.org|2|Ada Lovell", "bea@h-works.org|1|"]);
    let context = table(&place.run("extract t.txt --context 12 -q").stdout);
    assert_eq!(context[2]["context"], "long before bea@h-works.org long behind");
    let json: serde_json::Value =
        serde_json::from_str(place.run("extract t.txt --to jsonl -q").stdout.lines().next().unwrap())
            .unwrap();
    assert_eq!(
        (&json["as_found"], &json["form"], &json["line"]),
        (&"Ada Lovell <Ada@h-works.org>".into(), &"named".into(), &1.into())
    );
    assert_eq!(json["keys"]["exact"], "Ada@h-works.org");

    let run = place.run("extract t.txt -o found.csv");
    for line in
        ["addresses  3", "mailboxes  2", "handle     1", "file-name  1", "3 rows written to found.csv"]
    {
        assert!(run.stdout.contains(line), "{line}: {}", run.stdout);
    }
    let run = place.run("extract t.txt --show-skipped");
    assert!(run.stderr.contains("mailboxes  2"), "what is not listed counts as well: {}", run.stderr);
    let skipped = table(&run.stdout);
    assert_eq!(skipped.iter().map(|r| &*r["text"]).collect::<Vec<_>>(), ["@dome", "icon@2x.png"]);

    std::fs::write(place.path("j.json"), r#"{"m": {"at": "ada@h-works.org"}}"#).unwrap();
    let run = place.run("extract j.json --field m.at --field /m/at --to plain");
    assert_eq!(run.stdout, "ada@h-works.org\n");
    assert!(run.stderr.contains("there is no text in the field ‘/m/at’"), "{}", run.stderr);
    assert!(!run.stderr.contains("‘m.at’"), "{}", run.stderr);

    let run = place.run("extract l.csv --row-per-address");
    assert_eq!(
        run.stdout.lines().map(|l| l.split(',').take(3).collect::<Vec<_>>().join(",")).collect::<Vec<_>>(),
        [
            "id,m,yp_address",
            "1,a1@h-works.org; b1@h-works.org,a1@h-works.org",
            "1,a1@h-works.org; b1@h-works.org,b1@h-works.org",
            "3,c1@h-works.org,c1@h-works.org"
        ]
    );
    assert!(run.stderr.starts_with("3 addresses · 1 no-address — 3 records\n"), "{}", run.stderr);
}

#[test]
fn folders_tell_what_could_not_be_read() {
    let place = Place::with(&[]);
    std::fs::create_dir_all(place.path("d/sub")).unwrap();
    for (name, bytes) in [
        ("d/a.txt", &b"ada@h-works.org"[..]),
        ("d/sub/b.txt", b"bea@h-works.org"),
        ("d/sub/c.bin", b"cleo@h-works.org\0"),
        ("d/broken.json", b"{\"m\": dara@h-works.org"),
        ("d/.gitignore", b"skip.txt\n"),
        ("d/skip.txt", b"edda@h-works.org"),
    ] {
        std::fs::write(place.path(name), bytes).unwrap();
    }
    let run = place.run("extract d --to plain");
    assert_eq!((run.code, &*run.stdout), (1, "ada@h-works.org\nbea@h-works.org\n"));
    assert!(
        run.stderr.contains("1 file was passed over: a binary file")
            && run.stderr.contains("1 file could not be read:"),
        "{}",
        run.stderr
    );
}

#[test]
fn bad_input() {
    let whole = gzip(&b"ada@h-works.org and more text behind it, quite a lot of it\n".repeat(2000));
    let cut = &whole[..whole.len() - 40];
    let place = Place::with(&[
        ("cut.txt.gz", cut),
        ("x.json", b"{\"a\""),
        ("l.csv", b"mail\nx\n\"a@h-works.org\n"),
        ("e.txt", b""),
    ]);
    for (call, said) in [
        ("extract cut.txt.gz -o o.csv", "the compressed input breaks off behind byte"),
        ("extract x.json -o o.csv", "this is not JSON"),
        ("extract l.csv -o o.csv", "opens in line 3 is never closed"),
        ("extract l.csv --row-per-address -o o.csv", "opens in line 3 is never closed"),
        ("extract l.csv --field male -o o.csv", "did you mean --field mail?"),
        ("extract e.txt -o o.csv", "the file is empty"),
        ("extract none.txt -o o.csv", "file not found"),
        ("extract ada@h.org", "ypogram explain ada@h.org"),
        ("clean cut.txt.gz -o o", "or take what can be read with --salvage"),
    ] {
        let run = place.run(call);
        assert_eq!(run.code, 2, "{call}: {}", run.stderr);
        assert!(run.stderr.contains(said), "{call}: {}", run.stderr);
        assert!(!place.path("o.csv").exists() && !place.path("o").exists(), "{call}");
    }
    let run = place.run("extract cut.txt.gz --salvage -o o.csv");
    assert!(
        run.code == 1 && run.stdout.contains("broke off, and what could be read was taken"),
        "{} {}",
        run.stdout,
        run.stderr
    );
    assert!(table(&place.read("o.csv")).len() > 10);
    let run = place.run("clean cut.txt.gz --also line --salvage -o o");
    assert!(
        run.code == 1 && run.stdout.contains("it broke off, and only what could be read is here"),
        "{}",
        run.stdout
    );
}

#[test]
fn a_long_line_without_end() {
    let mut line = b"x".repeat(3 << 20);
    line.extend_from_slice(b" ada@h-works.org ");
    line.extend(b"y".repeat(3 << 20));
    let place = Place::with(&[("long.txt", &line)]);
    assert_eq!(
        told(&place.run("extract long.txt -q").stdout),
        [format!("ada@h-works.org|||1|{}", (3 << 20) + 1)]
    );
}

/// What is hidden from programs is counted in its place among the rest, and the command that takes it is named.
#[test]
fn what_is_hidden_is_counted_and_how_to_take_it_is_told() {
    let text = "Ask ada (at) h-works (dot) org,\nbea@h-works[dot]org or cleo@h-works.org;\nmeet me at the dot com boom.\n";
    let place = Place::with(&[("notes.txt", text.as_bytes())]);
    let run = place.run("extract notes.txt -o found.csv");
    assert!(run.stdout.contains(
        "2  more may be hidden from programs:                ypogram extract notes.txt --obfuscated"
    ));
    assert_eq!(told(&place.read("found.csv")), ["cleo@h-works.org|||2|55"]);
    let run = place.run("extract notes.txt --show-skipped -q -o -");
    let reasons: Vec<String> =
        table(&run.stdout).iter().map(|row| format!("{} {}", row["reason"], row["text"])).collect();
    assert_eq!(reasons, ["hidden ada (at) h-works (dot) org", "hidden bea@h-works[dot]org"]);
    let run = place.run("extract notes.txt --obfuscated -o all.csv");
    assert!(!run.stdout.contains("hidden"), "{}", run.stdout);
    assert_eq!(
        told(&place.read("all.csv")),
        ["ada@h-works.org|||1|4", "bea@h-works.org|||2|32", "cleo@h-works.org|||2|55"]
    );
    let run = place.run("extract notes.txt --json -o found.csv --force");
    let summed: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(summed["counts"]["passed_over"]["hidden"], 2);
}

/// A slip in a text is for review in every output, though its ending alone would reject it.
#[test]
fn a_slip_among_other_words_is_for_review() {
    let place = Place::with(&[("notes.txt", b"write to bram@gmail.con, please".as_slice())]);
    let run = place.run("extract notes.txt -q -o -");
    let row = &table(&run.stdout)[0];
    assert_eq!((&*row["verdict"], &*row["findings"]), ("review", "typing-slip"));
    let run = place.run("extract notes.txt -q --to jsonl -o -");
    let row: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!((&row["verdict"], &row["findings"][0]["code"]), (&"review".into(), &"typing-slip".into()));
    assert_eq!(row["suggestion"]["address"], "bram@gmail.com");
    let place = Place::with(&[("list.csv", b"email,notes\n,write to bram@gmail.con\n".as_slice())]);
    let run = place.run("check list.csv --field email --also notes -q -o -");
    let row = &table(&run.stdout)[0];
    assert_eq!((&*row["yp_verdict"], &*row["yp_suggestion"]), ("review", "bram@gmail.com"));
}
