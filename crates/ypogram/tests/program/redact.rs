//! Copies without addresses, through the program: what stands in their place, the way back, and the proof.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

use crate::{Place, table};

const KEY: &str = "000102030405060708090a0b0c0d0e0f101112131415161718191a1b1c1d1e1f\n";

fn demo() -> Place {
    let place = Place::with_demo();
    std::fs::write(place.path("k"), KEY).unwrap();
    place
}

/// Every file of the demo that stands there as bytes is redacted, has no address left, and comes back byte for byte.
#[test]
fn copies_come_back_byte_for_byte() {
    let place = demo();
    let hide = [("members.csv", "member_no"), ("loans.csv", "loan"), ("roster.csv", "staff_no")];
    for file in
        ["members.csv", "loans.csv", "roster.csv", "open-nights.csv", "sign-up-sheet.txt", "returned.mbox"]
    {
        let hidden = hide.iter().find(|(of, _)| *of == file).map(|(_, field)| ["--hide", field]);
        for by in [&["--key", "k"][..], &["--as", "hash"]] {
            let words = [
                &["redact", file, "--map", "m.map", "-o", "copy"][..],
                by,
                hidden.as_ref().map_or(&[][..], |hidden| &hidden[..]),
            ]
            .concat();
            let run = place.run_words(&words, Vec::new());
            assert_eq!(run.code, 0, "{words:?}: {}", run.stderr);
            assert_ne!(place.bytes("copy"), place.bytes(file), "{file}");
            let found = place.run(&format!(
                "extract copy --to plain -q --any-tld --obfuscated --from {}",
                if file.ends_with("csv") { "csv" } else { "text" }
            ));
            assert!(
                found.stdout.lines().all(|line| line.ends_with("@token.invalid")),
                "{file} {by:?}: {}",
                found.stdout
            );
            let run = place.run("redact restore copy --map m.map -o back");
            assert_eq!(run.code, 0, "{}", run.stderr);
            assert_eq!(place.bytes("back"), place.bytes(file), "{file} {by:?}");
            for done in ["copy", "m.map", "back"] {
                std::fs::remove_file(place.path(done)).unwrap();
            }
        }
    }
}

/// A mailbox has one token however it is written and in whichever file; joins go on working.
#[test]
fn tokens_join() {
    let place = demo();
    std::fs::write(
        place.path("a.csv"),
        "n,mail\n1,Ada.Lovell@GMail.com\n2,adalovell+x@gmail.com\n3,bea@fernhollow.org\n",
    )
    .unwrap();
    std::fs::write(place.path("b.txt"), "write to ada.lovell@googlemail.com, or bea&#64;fernhollow.org\n")
        .unwrap();
    let run = place.run("redact a.csv b.txt --key k -o out -q");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let rows = table(&place.read("out/a.csv"));
    let tokens: Vec<&str> = rows.iter().map(|row| &*row["mail"]).collect();
    assert_eq!(tokens[0], tokens[1]);
    assert_ne!(tokens[0], tokens[2]);
    assert!(tokens.iter().all(|token| token.len() == 17 + "@token.invalid".len()), "{tokens:?}");
    assert!(place.read("out/b.txt").contains(&format!("write to {}, or {}", tokens[0], tokens[2])));
    let judged = place.run("check out/a.csv --field mail --no-rules");
    assert!(
        table(&judged.stdout).iter().all(|row| row["yp_class"] == "token" && row["yp_verdict"] == "accept")
    );
    // The token is the documented function of key and mailbox.
    let known =
        place.run_words(&["redact", "-", "--key", "k", "--no-rules", "-q"], b"bea@fernhollow.org\n".to_vec());
    assert_eq!(known.stdout.trim(), tokens[2]);
    // Another key, other tokens.
    assert_eq!(place.run("redact key -o other").code, 0);
    let other = place.run_words(&["redact", "-", "--key", "other", "-q"], b"bea@fernhollow.org\n".to_vec());
    assert_ne!(other.stdout.trim(), tokens[2]);
    assert_eq!(place.run("redact key -o other").code, 3, "a key is never overwritten");
}

/// Masks show what they are told to; a map of masks that are not one to one is refused.
#[test]
fn masks() {
    let place = demo();
    std::fs::write(
        place.path("a.csv"),
        "no,mail\n017,ada.lovell@gmail.com\n0171234,adam.bell@gmail.com\n3,x@fernhollow.org\n",
    )
    .unwrap();
    for (options, told) in [
        ("", "017,ad******ll@gmail.com\n0171234,ad*****ll@gmail.com\n3,*@fernhollow.org\n"),
        ("--keep 1,1 --run 3 --domain class", "017,a***l@free\n0171234,a***l@free\n3,***@business\n"),
        ("--keep 0,0 --domain hide --hide no", "***,**********@***\n*******,*********@***\n*,*@***\n"),
    ] {
        let run = place.run(&format!("redact a.csv --as mask {options} --no-rules -q"));
        assert_eq!(run.stdout, format!("no,mail\n{told}"), "{options}: {}", run.stderr);
    }
    let run = place.run("redact a.csv --as mask --keep 1,1 --run 3 --map m.map -o out.csv");
    assert!(run.code == 2 && run.stderr.contains("stand"), "{}", run.stderr);
    assert!(!place.path("out.csv").exists() && !place.path("m.map").exists());
    let run = place.run("redact a.csv --as mask --map m.map -o out.csv");
    assert_eq!(run.code, 0, "{}", run.stderr);
    let run = place.run("redact restore out.csv --map m.map");
    assert_eq!(run.stdout, place.read("a.csv"));
}

/// Ways of writing in which programs do not see an address at once, in encodings of all kinds.
#[test]
fn every_way_of_writing_and_encoding() {
    let place = demo();
    let wide = |text: &str| -> Vec<u8> {
        std::iter::once(0xFEFF).chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect()
    };
    let files: [(&str, Vec<u8>); 9] = [
        ("a.txt", b"ada (at) fernhollow (dot) org, ADA@FERNHOLLOW.ORG; <ada%40fernhollow.org>".to_vec()),
        ("b.html", b"<p>ada&#64;fernhollow.org <a href='mailto:ada%40fernhollow.org?subject=hi'>x</a>".to_vec()),
        ("c.json", br#"{"a\u0040":"x \"ada\u0040fernhollow.org\" \ud83d\ude00","ada@fernhollow.org":[1,"ada@fernhollow.org"]}"#.to_vec()),
        (
            "q.csv",
            b"n,m\n1,\"\"\"quiet dome\"\"@fernhollow.org\"\n2,ada@@fernhollow.org\n3,zoe..x@fernhollow.org and ada@fernhollow.org\n".to_vec(),
        ),
        ("d.csv", b"n;m\r\n\"1\";\"say \"\"ada@fernhollow.org\"\"\"\r\n2;ada@fernhollow.org".to_vec()),
        ("e.csv", b"n,m\nZo\xEB,zo\xEB@fernhollow.org\nx,ada@fernhollow.org\n".to_vec()),
        ("f.csv", wide("n,m\nZoë,ada@fernhollow.org\nx,y\n")),
        ("g.txt", wide("Zoë: ada@fernhollow.org\r\nx")),
        ("h.eml", b"From: =?utf-8?Q?Z?= <ada@fernhollow.org>\r\nTo: ada@fernhollow.org\r\n\r\nada@fernhollow.org\r\n".to_vec()),
    ];
    for (name, bytes) in files {
        std::fs::write(place.path(name), &bytes).unwrap();
        let run =
            place.run(&format!("redact {name} --key k --map {name}.map -o copy-{name} --no-rules --json"));
        assert_eq!(run.code, 0, "{name}: {}", run.stderr);
        let said: Value = serde_json::from_str(&run.stdout).unwrap();
        assert!(said["copies"][0]["addresses"].as_u64() > Some(0), "{name}: {said}");
        let copy = String::from_utf8_lossy(&place.bytes(&format!("copy-{name}"))).replace('\0', "");
        assert!(!copy.contains("fernhollow"), "{name}: {copy}");
        assert_eq!(place.run(&format!("redact search copy-{name}")).code, 0, "{name}");
        assert_eq!(place.run(&format!("redact search {name}")).code, 1, "{name}");
        let run = place.run(&format!("redact restore copy-{name} --map {name}.map -o back"));
        assert_eq!(run.code, 0, "{name}: {}", run.stderr);
        assert_eq!(place.bytes("back"), bytes, "{name}");
        std::fs::remove_file(place.path("back")).unwrap();
    }
}

/// Where something is left, nothing is published; and a copy is the same whatever the threads and pieces.
#[test]
fn the_proof_and_the_same_bytes() {
    let place = demo();
    std::fs::write(
        place.path("a.csv"),
        "name,mail,notes\nAda Lovell,ada@fernhollow.org,asked by ADA LOVELL\nBo,bo@fernhollow.org,Bo\n",
    )
    .unwrap();
    let run = place.run("redact a.csv --key k --hide name -o out.csv");
    assert_eq!(run.code, 1, "{}", run.stdout);
    assert!(run.stderr.contains("line 2: value of a hidden field"), "{}", run.stderr);
    assert!(!place.path("out.csv").exists());
    assert_eq!(place.run("redact a.csv --key k --hide name --hide notes -o out.csv").code, 0);
    // What has no bytes that could be replaced is refused, and nothing is written.
    let mail = "From: x\nMIME-Version: 1.0\nContent-Type: text/plain; charset=none\nContent-Transfer-Encoding: base64\n\nYWRhQGZlcm5ob2xsb3cub3Jn\n";
    std::fs::write(place.path("m.eml"), mail).unwrap();
    for call in ["m.eml -o o", "volunteers.vcf -o o.vcf", "equipment.xlsx --map m.map -o o.xlsx"] {
        let run = place.run(&format!("redact --key k {call}"));
        assert_eq!(run.code, 2, "{call}: {}", run.stderr);
        assert!(
            ["o", "o.vcf", "o.xlsx", "m.map"].iter().all(|output| !place.path(output).exists()),
            "{call}"
        );
    }
    let text: String =
        (0..5000).map(|nth| format!("{nth}: a{nth}@fernhollow.org or b{} (at) h.org\n", nth % 7)).collect();
    std::fs::write(place.path("long.txt"), text).unwrap();
    let copies: BTreeSet<String> = ["--threads 1", "--threads 2", "--threads 2 --chunk-bytes 5000"]
        .iter()
        .map(|options| place.run(&format!("redact long.txt --key k -q {options}")).stdout)
        .collect();
    assert_eq!(copies.len(), 1);
    assert_eq!(copies.iter().next().unwrap().lines().count(), 5000);
}

/// Parts of mail that are sent encoded are encoded anew, those alone; the proof looks into them, and the map brings them back.
#[test]
fn encoded_parts_of_mail() {
    let place = demo();
    let mail = "From: =?utf-8?Q?Ada_=C3=96?= <ada@fernhollow.org>\r\n\
        To: =?utf-8?Q?bo=40fernhollow.org?= =?utf-8?Q?_B?=\r\n <bo@fernhollow.org>, =?utf-8?Q?Cy?= <cy@fernhollow.org>\r\n\
        MIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n\
        --b\r\nContent-Type: text/plain; charset=iso-8859-1\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n\
        Gr=FC=DFe an ada=40fernhollow.org\r\nund bo@fernhol=\r\nlow.org.\r\n\
        --b\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n\
        As sent: ada@fernhollow.org =\r\n=C3=A9\r\n\
        --b\r\nContent-Type: text/plain\r\nContent-Transfer-Encoding: base64\r\n\r\n\
        YWRhQGZlcm5ob2xsb3cub3JnLCBib0BmZXJu\r\naG9sbG93Lm9yZw==\r\n\
        --b\r\nContent-Type: text/plain\r\nContent-Transfer-Encoding: base64\r\n\r\n\
        bm9ib2R5IGhl\r\ncmU=\r\n--b--\r\n";
    std::fs::write(place.path("m.eml"), mail).unwrap();
    for (way, has_map) in [("--key k", true), ("--as hash", true), ("--as mask", false)] {
        let map = if has_map { "--map m.map" } else { "" };
        let run = place.run(&format!("redact m.eml {way} {map} -o copy.eml --force"));
        assert_eq!(run.code, 0, "{way}: {}", run.stderr);
        assert!(run.stdout.contains("9 addresses"), "{way}: {}", run.stdout);
        let copy = place.read("copy.eml");
        for stays in [
            "From: =?utf-8?Q?Ada_=C3=96?= <",
            "=?utf-8?Q?Cy?= <",
            "\r\nAs sent: ",
            " =\r\n=C3=A9\r\n",
            "bm9ib2R5IGhl\r\ncmU=\r\n--b--\r\n",
        ] {
            assert!(copy.contains(stays), "{way}: {stays:?} in {copy}");
        }
        let found = place.run("extract copy.eml --obfuscated --to plain");
        assert!(!found.stdout.contains("fernhollow.org"), "{way}: {}", found.stdout);
        if has_map {
            assert_eq!(place.run("redact restore copy.eml --map m.map -o back.eml --force").code, 0);
            assert_eq!(place.read("back.eml"), mail, "{way}");
            std::fs::remove_file(place.path("m.map")).unwrap();
        }
    }
}

/// Spellings of one mailbox come back each at its place, also where others have added rows and columns.
#[test]
fn restoring_what_others_have_changed() {
    let place = demo();
    let list = "n,mail\n1,Ada.Lovell@gmail.com\n2,adalovell@gmail.com\n3,bea@fernhollow.org\n4,adalovell@gmail.com\n";
    std::fs::write(place.path("a.csv"), list).unwrap();
    assert_eq!(place.run("redact a.csv --key k --map m.map -o copy.csv").code, 0);
    let changed: String = place.read("copy.csv").lines().map(|line| format!("{line},seen\n")).collect();
    std::fs::write(place.path("changed.csv"), format!("{changed}9,nobody,new\n")).unwrap();
    let back = place.run("redact restore changed.csv --map m.map");
    let expected: String = list.lines().map(|line| format!("{line},seen\n")).collect();
    assert_eq!(back.stdout, format!("{expected}9,nobody,new\n"));
    // Where rows are gone, the mailbox is right and the spelling may not be, which is said.
    let shorter: String = place.read("copy.csv").lines().skip(2).map(|line| format!("{line}\n")).collect();
    std::fs::write(place.path("shorter.csv"), shorter).unwrap();
    let back = place.run("redact restore shorter.csv --map m.map");
    assert_eq!((back.code, back.stdout.lines().count()), (1, 3));
    assert!(
        back.stdout.contains("adalovell@gmail.com") && back.stderr.contains("several ways"),
        "{}",
        back.stderr
    );
    let counts: BTreeMap<&str, usize> = [("a.csv", 1), ("m.map", 2)].into();
    for (file, code) in counts {
        let run = place.run(&format!("redact {file} --map m.map --key k -o x"));
        assert!(run.code > 1, "{file} {code}: a map is never overwritten");
    }
}

/// Workbooks, databases and address books are written anew, cell by cell, and proved like others.
#[test]
fn files_of_typed_cells() {
    let place = demo();
    for (source, output) in [
        ("equipment.xlsx", "o.xlsx"),
        ("equipment.xlsx", "o.csv"),
        ("volunteers.vcf", "v.csv"),
        ("o.xlsx", "again.sqlite"),
    ] {
        let run = place.run(&format!(
            "redact {source} --key k --hide {} -o {output}",
            if source.ends_with("vcf") { "org" } else { "case" }
        ));
        assert_eq!(run.code, 0, "{source} {output}: {}", run.stderr);
        let run = place.run(&format!("redact search {output} --json"));
        let said: Value = serde_json::from_str(&run.stdout).unwrap();
        assert_eq!(said["counts"]["addresses"], 0, "{output}: {said}");
        assert!(said["counts"]["tokens"].as_u64() > Some(10), "{output}: {said}");
    }
    let before = place.run("check equipment.xlsx --columns item,borrower,since,deposit -q").stdout;
    assert_eq!(place.run("check o.xlsx --columns item,borrower,since,deposit -q").stdout, before);
    let list = "n,phone,notes\n1,01632 960001,call 01632 960002\n2,01632 960002,x\n";
    std::fs::write(place.path("p.csv"), list).unwrap();
    assert_eq!(place.run("check p.csv --columns n,phone,notes -o p.xlsx -q").code, 0);
    let run = place.run("redact p.xlsx --key k --hide phone -o hidden.xlsx");
    assert!(run.code == 1 && run.stderr.contains("value of a hidden field"), "{} {}", run.code, run.stderr);
    assert!(!place.path("hidden.xlsx").exists());
}
