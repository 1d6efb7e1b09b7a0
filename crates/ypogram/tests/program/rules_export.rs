//! The rule for entries, tried where it lives: each place is given thousands of values, and does what `check --as-typed` does but for what the rule
//! says of itself.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;

use serde_json::{Value, json};
use ypogram_core::entry_rule::RefusesToo;
use ypogram_core::house_format::{Fold, HouseFormat};
use ypogram_core::{Policy, providers::Certainty};
use ypogram_jobs::export::{EntryJudge, values};
use ypogram_jobs::{HouseFormats, Selection};

use crate::Place;
use crate::browser::Browser;

/// The rulebooks, by name.
const RULEBOOKS: [(&str, &str); 2] = [
    ("plain", "version = 2\n[domains]\npublic = [\"example\"]\n"),
    (
        "strict",
        "version = 2\n[domains]\npublic = [\"example\"]\n\
         [standard-form]\nmax-length = 60\n\
         [selection]\nwithout = [\"free\", \"disposable\", \"role-account\"]\n\
         [lists]\nleft = { file = \"left.txt\", of = \"domains\", severity = \"reject\" }\n\
         [house]\nformat = ['given \".\" family \"@fernhollow.example\"', 'family \"_\" given(1) number? \"@quarryfarm.org\"']\n",
    ),
];

/// Values for each rulebook: as many as one asks for, since all places together take minutes.
fn count() -> usize {
    std::env::var("YPOGRAM_ENTRY_VALUES").ok().and_then(|count| count.parse().ok()).unwrap_or(600)
}

/// A folder with a rulebook, values, and what the program says of each.
struct Trial {
    name: &'static str,
    place: Place,
    values: Vec<String>,
    /// Whether it is refused, and the findings for it.
    expected: Vec<(bool, Vec<String>)>,
}

impl Trial {
    fn of(name: &'static str, rulebook: &str) -> Self {
        let place =
            Place::with(&[("ypogram.toml", rulebook.as_bytes()), ("left.txt", b"mill.org\nquarryfarm.be\n")]);
        let values = made();
        let lines: String = values.iter().map(|value| format!("{}\n", json!({ "value": value }))).collect();
        std::fs::write(place.path("values.jsonl"), lines).unwrap();
        let checked = place.run(
            "check values.jsonl --as-typed --field value --columns value,yp_verdict,yp_class,yp_findings -q -o checked.jsonl",
        );
        assert!(checked.code < 2, "{}", checked.stderr);
        let severities = place.run("rules --json");
        let severities: Value = serde_json::from_str(&severities.stdout).unwrap();
        let weighs: BTreeMap<&str, &str> = severities["rules"]
            .as_array()
            .unwrap_or_else(|| severities.as_array().expect("rules"))
            .iter()
            .map(|rule| (rule["code"].as_str().unwrap(), rule["severity"].as_str().unwrap()))
            .collect();
        let rejects = |code: &str| {
            // Nobody reviews an entry.
            let weight = weighs.get(code).copied().unwrap_or("reject");
            let is_unwanted = name == "strict" && code == "role-account";
            weight == "reject"
                || is_unwanted
                || weight == "review" && matches!(code, "house-format" | "pattern")
        };
        let checked = place.read("checked.jsonl");
        let expected = checked.lines().map(|line| {
            let row: Value = serde_json::from_str(line).unwrap();
            let codes = row["yp_findings"].as_str().unwrap_or_default().split_whitespace();
            let mut rejecting: Vec<String> = codes.filter(|code| rejects(code)).map(str::to_owned).collect();
            if name == "strict" {
                let of_class = [("free", "free-provider"), ("disposable", "disposable")];
                let unwanted = of_class.into_iter().filter(|(class, _)| row["yp_class"] == *class);
                rejecting.extend(unwanted.map(|(_, code)| code.to_owned()));
            }
            let has_none = row["yp_verdict"].as_str().is_none_or(str::is_empty);
            let refused = !rejecting.is_empty() || has_none;
            (refused, rejecting)
        });
        let expected: Vec<_> = expected.collect();
        assert_eq!(expected.len(), values.len());
        Trial { name, place, values, expected }
    }

    /// Writes the rule for `place`, and holds what was refused there against what the program says; `extra` are values that the place changes
    /// before it looks.
    fn holds(&self, place: &str, refused: &[bool]) {
        let told = self.place.run(
            &format!(
                "rules export --for {place} -o told{}.out --json --force",
                if place.starts_with("xlsx") { ".xlsx" } else { "" }
            )
            .replace(".xlsx.out", ".xlsx"),
        );
        let told: Value = serde_json::from_str(&told.stdout).unwrap_or_else(|_| panic!("{}", told.stderr));
        let passes: BTreeSet<&str> = told["lets_pass"]
            .as_array()
            .unwrap()
            .iter()
            .map(|passing| passing["code"].as_str().unwrap())
            .collect();
        let all = [
            RefusesToo::AddressLiteral,
            RefusesToo::HeaderForm,
            RefusesToo::Quotes,
            RefusesToo::NonAsciiLocal,
            RefusesToo::BrokenLabel,
        ];
        let is_told = |refuses: &RefusesToo| {
            told["refuses_too"].as_array().unwrap().iter().any(|words| words == refuses.words())
        };
        let too: Vec<RefusesToo> = all.into_iter().filter(is_told).collect();
        assert_eq!(refused.len(), self.values.len(), "{place}");
        let (mut differences, mut taken) = (0, 0);
        for ((value, (expected, codes)), refused) in self.values.iter().zip(&self.expected).zip(refused) {
            taken += usize::from(!refused);
            let is_explained = match (expected, refused) {
                (true, false) => !codes.is_empty() && codes.iter().all(|code| passes.contains(&**code)),
                (false, true) => too.iter().any(|refuses| refuses.may_be(value)),
                _ => continue,
            };
            assert!(
                is_explained,
                "{}, {place}: {value:?}: refused {refused}, the program {codes:?}",
                self.name
            );
            differences += 1;
        }
        println!(
            "{}, {place}: {} values, {taken} taken, {differences} differences, all of them listed",
            self.name,
            self.values.len()
        );
        assert!(taken > 20, "{}, {place}", self.name);
    }

    fn export(&self, place: &str, file: &str) {
        let made = self.place.run(&format!("rules export --for {place} -o {file} --force"));
        assert_eq!(made.code, 0, "{}", made.stderr);
    }

    /// What a program says of each value: a line `0` or `1` for each.
    fn by(&self, program: &str, arguments: &[&str]) -> Option<Vec<bool>> {
        let output = Command::new(program).args(arguments).current_dir(self.place.path("")).output().ok()?;
        if !output.status.success() {
            eprintln!("skipped: {program}: {}", String::from_utf8_lossy(&output.stderr));
            return None;
        }
        let text = String::from_utf8(output.stdout).unwrap();
        Some(text.lines().map(|line| line == "1").collect())
    }
}

/// Values of every kind that the rulebooks speak of.
fn made() -> Vec<String> {
    let mut policy = Policy::default();
    policy.trust_name("example").unwrap();
    let format = |text: &str| HouseFormat::new(text, Fold::Plain).unwrap();
    let formats = vec![
        format("given \".\" family \"@fernhollow.example\""),
        format("family \"_\" given(1) number? \"@quarryfarm.org\""),
    ];
    let selection = Selection::read(&[], &["free".into(), "disposable".into()], Certainty::Known).unwrap();
    let house = HouseFormats { formats, ..HouseFormats::default() };
    let judge = EntryJudge::new(&policy, selection, house, Vec::new());
    values(&judge.rule(), &judge, count())
}

fn trials() -> impl Iterator<Item = Trial> {
    RULEBOOKS.into_iter().map(|(name, rulebook)| Trial::of(name, rulebook))
}

#[test]
fn expressions_and_schema_in_the_engines_that_run_them() {
    for trial in trials() {
        for flavour in ["pcre", "ecmascript"] {
            trial.export(&format!("regex --flavour {flavour}"), "rule.txt");
            let text = trial.place.read("rule.txt");
            let expression = text.lines().last().unwrap();
            assert!(text.lines().rev().skip(1).all(|line| line.starts_with('#')), "{text}");
            std::fs::write(trial.place.path("expression"), expression).unwrap();
            if flavour == "pcre" {
                let listed: String = trial.values.iter().map(|value| format!("{value}\0")).collect();
                std::fs::write(trial.place.path("values"), listed).unwrap();
                // One at a time, since its -z takes no line breaks apart.
                let matched = Command::new("grep")
                    .args(["-zP", "-f", "expression", "values"])
                    .env("LC_ALL", "C.UTF-8")
                    .current_dir(trial.place.path(""))
                    .output()
                    .unwrap();
                assert!(matched.stderr.is_empty(), "{}", String::from_utf8_lossy(&matched.stderr));
                let matched = String::from_utf8(matched.stdout).unwrap();
                let matched: BTreeSet<&str> = matched.split('\0').collect();
                let refused: Vec<bool> = trial
                    .values
                    .iter()
                    .map(|value| value.is_empty() || !matched.contains(&**value))
                    .collect();
                trial.holds("regex --flavour pcre", &refused);
                continue;
            }
            let in_node = "const fs = require('fs'); const rule = new RegExp(fs.readFileSync('expression', 'utf8'), process.argv[1]);
                for (const line of fs.readFileSync('values.jsonl', 'utf8').trim().split('\\n')) console.log(rule.test(JSON.parse(line).value) ? 0 : 1)";
            for flags in ["", "u", "v"] {
                if let Some(refused) = trial.by("node", &["-e", in_node, flags]) {
                    trial.holds("regex --flavour ecmascript", &refused);
                }
            }
            let in_python = "import json, re\nrule = re.compile(open('expression', encoding='utf-8').read())\n\
                for line in open('values.jsonl', encoding='utf-8'): print(0 if rule.search(json.loads(line)['value']) else 1)";
            if let Some(refused) = trial.by("python3", &["-c", in_python]) {
                trial.holds("regex --flavour ecmascript", &refused);
            }
        }
        trial.export("json-schema", "schema.json");
        let validated = "import json, jsonschema\nschema = json.load(open('schema.json', encoding='utf-8'))\n\
            jsonschema.Draft202012Validator.check_schema(schema)\nvalidator = jsonschema.Draft202012Validator(schema)\n\
            for line in open('values.jsonl', encoding='utf-8'): print(0 if validator.is_valid(json.loads(line)['value']) else 1)";
        if let Some(refused) = trial.by("python3", &["-c", validated]) {
            trial.holds("json-schema", &refused);
        }
    }
}

/// The input alone, which a browser has cleaned of line breaks and white space around it, and the script with the values as they are.
#[test]
fn the_input_and_the_script_in_a_browser() {
    let Some(browser) = Browser::open() else { return };
    for trial in trials() {
        trial.export("html", "form.html");
        browser.go(&format!("file://{}", trial.place.path("form.html").display()));
        let by_script = browser.ask(
            "return arguments[0].map((value) => window.AddressEntry.fault(value) !== null)",
            &json!([trial.values]),
        );
        let by_script: Vec<bool> = serde_json::from_value(by_script).unwrap();
        // What the input itself refuses is for the next question.
        trial.holds("html", &by_script);
        let by_input = browser.ask(
            "const input = document.querySelector('input');
             return arguments[0].map((value) => {
               input.value = value;
               const { typeMismatch, patternMismatch, valueMissing } = input.validity;
               return [input.value, typeMismatch || patternMismatch || valueMissing];
             })",
            &json!([trial.values]),
        );
        let by_input: Vec<(String, bool)> = serde_json::from_value(by_input).unwrap();
        // Whatever the input refuses, the script refuses, but for what every input of that type refuses.
        for (value, refused) in &by_input {
            let fault = browser_fault(&trial, value);
            let too = [RefusesToo::Quotes, RefusesToo::NonAsciiLocal].iter().any(|too| too.may_be(value));
            assert!(!refused || fault || too, "{}: {value:?}", trial.name);
        }
        let taken = by_input.iter().filter(|(_, refused)| !refused).count();
        assert!(taken * 2 < by_input.len(), "{}: {taken} of {}", trial.name, by_input.len());
        // What a visitor sees.
        browser.ask(
            "const input = document.querySelector('input'); input.value = ''; input.focus()",
            &json!([]),
        );
        let typed = |text: &str| {
            browser.call("POST", &format!("{}/value", browser.find("input")), &json!({ "text": text }));
            browser
                .ask("return document.querySelector('output').value", &json!([]))
                .as_str()
                .unwrap()
                .to_owned()
        };
        assert_eq!(typed("night.owl"), "", "not finished");
        assert_eq!(typed("@hill@"), "There is more than one @.");
        let is_valid = |value: &str| {
            let script = "const input = document.querySelector('input'); input.value = arguments[0];
                input.dispatchEvent(new Event('input')); input.dispatchEvent(new Event('change')); return input.validationMessage";
            browser.ask(script, &json!([value])).as_str().unwrap().to_owned()
        };
        assert_eq!(is_valid("night.owl@hillside.org"), "");
        assert_eq!(is_valid("night.owl@hillside.zzzz"), "There is no such top-level domain.");
    }
    browser.close();
}

/// Whether the program refuses a value that is one of the trial's, cleaned as a browser does.
fn browser_fault(trial: &Trial, value: &str) -> bool {
    let cleaned = |text: &str| text.replace(['\n', '\r'], "").trim_matches([' ', '\t', '\x0C']).to_owned();
    let mut same = trial.values.iter().zip(&trial.expected).filter(|(other, _)| cleaned(other) == value);
    same.any(|(_, (refused, _))| *refused) || same.next().is_none()
}

#[cfg(feature = "sqlite")]
#[test]
fn conditions_in_sqlite() {
    for trial in trials() {
        trial.export("sql --dialect sqlite", "rule.sql");
        let engine = rusqlite::Connection::open_in_memory().unwrap();
        let sql = format!("CREATE TABLE members (email text NOT NULL,\n{})", trial.place.read("rule.sql"));
        engine.execute_batch(&sql).unwrap();
        trial.export("sql --dialect sqlite --table guests", "rule.sql");
        engine.execute_batch("CREATE TABLE guests (email text)").unwrap();
        engine.execute_batch(&trial.place.read("rule.sql")).unwrap();
        let refuses = |table: &str, value: &str| {
            let mut insert = engine.prepare_cached(&format!("INSERT INTO {table} VALUES (?1)")).unwrap();
            let done = insert.execute([value]);
            engine.prepare_cached(&format!("DELETE FROM {table}")).unwrap().execute([]).unwrap();
            done.err().map(|error| error.to_string())
        };
        let refused: Vec<bool> =
            trial.values.iter().map(|value| refuses("members", value).is_some()).collect();
        trial.holds("sql --dialect sqlite", &refused);
        for (value, refused) in trial.values.iter().zip(&refused) {
            assert_eq!(refuses("guests", value).is_some(), *refused, "{value:?}");
        }
        // The database says what is wrong, and lets a mailbox in once.
        let said = |table: &str| refuses(table, "night..owl@hillside.org").unwrap();
        assert!(said("members").contains("email_double_dot"), "{}", said("members"));
        assert!(said("guests").contains("Two dots follow one another."), "{}", said("guests"));
        engine.execute("INSERT INTO members VALUES ('Night.Owl+a@hillside.org')", []).unwrap();
        let again = engine.execute("INSERT INTO members VALUES ('night.owl+A@hillside.org')", []);
        assert!(again.unwrap_err().to_string().contains("UNIQUE"));
        engine.execute("INSERT INTO guests VALUES (NULL)", []).unwrap();
    }
}

#[cfg(all(any(feature = "mysql", feature = "postgres"), unix))]
#[test]
fn conditions_in_servers() {
    for server in crate::servers::all() {
        for trial in trials() {
            let (dialect, kind) = match server.address().starts_with("postgres") {
                true => ("postgres", "text"),
                false => ("mariadb", "varchar(400) CHARACTER SET utf8mb4"),
            };
            let place = format!("sql --dialect {dialect}");
            trial.export(&place, "rule.sql");
            let table = format!("members_{}", trial.name);
            let sql = format!("CREATE TABLE {table} (email {kind},\n{})", trial.place.read("rule.sql"));
            server.execute(&sql).unwrap();
            let literal = |value: &String| match dialect {
                "postgres" => format!("'{}'", value.replace('\'', "''")),
                _ => format!("'{}'", value.replace('\\', "\\\\").replace('\'', "''")),
            };
            let given = format!("given_{}", trial.name);
            server.execute(&format!("CREATE TABLE {given} (nr int PRIMARY KEY, email {kind})")).unwrap();
            let rows: Vec<String> = trial
                .values
                .iter()
                .enumerate()
                .map(|(nr, value)| format!("({nr}, {})", literal(value)))
                .collect();
            for rows in rows.chunks(500) {
                server.execute(&format!("INSERT INTO {given} VALUES {}", rows.join(", "))).unwrap();
            }
            let taken = match dialect {
                "postgres" => {
                    let each = format!(
                        "CREATE TABLE taken_{0} (nr int);\nDO $$ DECLARE one record; BEGIN\n\
                         FOR one IN SELECT * FROM {given} LOOP BEGIN\n\
                         INSERT INTO {table} (email) VALUES (one.email); DELETE FROM {table}; INSERT INTO taken_{0} VALUES (one.nr);\n\
                         EXCEPTION WHEN check_violation THEN NULL; END; END LOOP; END $$",
                        trial.name
                    );
                    server.execute(&each).unwrap();
                    server.ask(&format!("SELECT nr FROM taken_{}", trial.name))
                }
                _ => {
                    let once = format!("ALTER TABLE {table} DROP INDEX email_key, ADD COLUMN nr int");
                    server.execute(&once).unwrap();
                    server
                        .execute(&format!("INSERT IGNORE INTO {table} (nr, email) SELECT * FROM {given}"))
                        .unwrap();
                    server.ask(&format!("SELECT CAST(nr AS CHAR) FROM {table}"))
                }
            };
            let taken: BTreeSet<usize> = taken.iter().map(|row| row[0].parse().unwrap()).collect();
            let refused: Vec<bool> = (0..trial.values.len()).map(|nr| !taken.contains(&nr)).collect();
            trial.holds(&place, &refused);
            // A table that is there gets them as well.
            trial.export(&format!("{place} --table guests_{}", trial.name), "rule.sql");
            server.execute(&format!("CREATE TABLE guests_{} (email {kind})", trial.name)).unwrap();
            for statement in trial.place.read("rule.sql").split(";\n").filter(|text| !text.trim().is_empty())
            {
                server.execute(statement).unwrap();
            }
            let wrong =
                format!("INSERT INTO guests_{} (email) VALUES ('night..owl@hillside.org')", trial.name);
            let error = server.execute(&wrong).unwrap_err();
            assert!(error.contains("email_double_dot"), "{error}");
        }
    }
}

/// LibreOffice works out the formula in cells, and reads the rule of the workbook.
#[test]
fn the_formula_in_a_spreadsheet() {
    if !Path::new("/usr/bin/soffice").exists() {
        return eprintln!("skipped: no LibreOffice is here");
    }
    for trial in trials() {
        let formula = trial.place.run("rules export --for xlsx");
        let formula = formula.stdout.lines().last().unwrap().to_owned();
        assert!(formula.len() <= 255, "{formula}");
        trial.export("xlsx", "rule.xlsx");
        std::fs::write(trial.place.path("formula"), formula).unwrap();
        let made = "import json, openpyxl\nformula = open('formula').read()\n\
            rule = openpyxl.load_workbook('rule.xlsx')['entries'].data_validations.dataValidation[0]\n\
            assert '=' + rule.formula1 == formula and str(rule.sqref) == 'A2:A1048576', rule\n\
            book = openpyxl.Workbook(write_only=True); sheet = book.create_sheet()\n\
            illegal = openpyxl.cell.cell.ILLEGAL_CHARACTERS_RE\n\
            for row, line in enumerate(open('values.jsonl', encoding='utf-8'), 1):\n  \
              value = openpyxl.cell.WriteOnlyCell(sheet, illegal.sub('\\u0085', json.loads(line)['value'])); value.data_type = 's'\n  \
              sheet.append([value, formula.replace('A2', f'A{row}')])\nbook.save('cells.xlsx')";
        let Some(_) = trial.by("/usr/bin/python3", &["-c", made]) else { return };
        let folder = trial.place.path("profile");
        let profile = format!("-env:UserInstallation=file://{}", folder.display());
        let options =
            ["--headless", "--convert-to", "csv:Text - txt - csv (StarCalc):44,34,76", "cells.xlsx"];
        let Some(_) = trial.by("soffice", &[&[&*profile], &options[..]].concat()) else { return };
        let mut reader =
            csv::ReaderBuilder::new().has_headers(false).from_path(trial.place.path("cells.csv")).unwrap();
        let refused: Vec<bool> = reader.records().map(|row| &row.unwrap()[1] != "TRUE").collect();
        // A cell without a text is not looked at.
        trial.holds("xlsx", &refused);
    }
}

/// Values that are written beside a rule are those of its place, and bad calls say what to do.
#[test]
fn values_and_errors() {
    let place = Place::with_demo();
    let made = place.run("rules export --for regex -o rule.txt --test-values values.tsv");
    assert_eq!(made.code, 0, "{}", made.stderr);
    let values = place.read("values.tsv");
    let (mut pass, mut fail) = (0, 0);
    let regex = place.read("rule.txt");
    assert!(
        regex.starts_with("# Email addresses as they are typed, by the rulebook ypogram.toml (hash "),
        "{regex}"
    );
    for line in values.lines() {
        let (word, value) = line.split_once('\t').unwrap();
        serde_json::from_str::<String>(value).unwrap();
        match word {
            "pass" => pass += 1,
            "fail" => fail += 1,
            _ => panic!("{line}"),
        }
    }
    assert!(pass > 100 && fail > 100, "{pass} {fail}");
    for (call, said) in [
        ("rules export --for sql", "add --dialect"),
        ("rules export --for html --dialect sqlite", "it goes with --for sql"),
        ("rules export --for xlsx -o rule.txt", "ends with .xlsx"),
        ("rules export --for html -o form.xlsx", "only --for xlsx"),
        ("rules export --for xlsx --cell 7", "name one as in D2"),
        ("rules export --for regex --let-pass unknown-tdl", "unknown-tld"),
        ("rules export --for regex --let-pass no-at-sign", "leave it out"),
        ("rules export --for regex -o rule.txt", "--force"),
        ("rules export --for regex -o ypogram.toml --force", "ypogram.toml"),
    ] {
        let run = place.run(call);
        assert!(run.code >= 2 && run.stderr.contains(said), "{call}: {}", run.stderr);
    }
    // A shorter rule says what it no longer refuses.
    let short = place.run("rules export --for regex --let-pass unknown-tld");
    assert!(short.stdout.len() * 3 < regex.len());
}

/// Sentences in the house's own words, names of files and of columns are texts wherever they go.
#[test]
fn words_that_would_break_out() {
    let sentence = "two\nlines; DROP TABLE members; -- </script><!--<script> \\\"'` *)";
    let rulebook = format!("version = 2\n[words]\ndouble-dot = {}\nunknown-tld = {0}\n", json!(sentence));
    let place = Place::with(&[("ypogram.toml", rulebook.as_bytes())]);
    let written = |call: &str| {
        let run = place.run_words(
            &call
                .split(' ')
                .map(|word| if word == "COLUMN" { "e\"m'`a\nil" } else { word })
                .collect::<Vec<_>>(),
            "",
        );
        assert_eq!(run.code, 0, "{call}: {}", run.stderr);
        run.stdout
    };
    let html = written("rules export --for html");
    assert_eq!(
        (html.matches("<script>").count(), html.matches("</script>").count(), html.matches("<!--").count()),
        (1, 1, 1)
    );
    let schema: Value = serde_json::from_str(&written("rules export --for json-schema")).unwrap();
    assert!(schema["allOf"].as_array().unwrap().iter().any(|part| part["description"] == sentence));
    for line in written("rules export --for regex").lines().rev().skip(1) {
        assert!(line.starts_with('#'), "{line}");
    }
    for dialect in ["sqlite", "postgres", "mariadb"] {
        let sql = written(&format!("rules export --for sql --dialect {dialect} --column COLUMN"));
        // A line of the sentence or of the name would stand by itself.
        assert!(!sql.lines().any(|line| line.starts_with("lines; DROP")), "{dialect}");
    }
    #[cfg(feature = "sqlite")]
    {
        let engine = rusqlite::Connection::open_in_memory().unwrap();
        let name = "\"e\"\"m'`a\nil\"";
        engine.execute_batch(&format!("CREATE TABLE members ({name} text)")).unwrap();
        engine
            .execute_batch(&written(
                "rules export --for sql --dialect sqlite --column COLUMN --table members",
            ))
            .unwrap();
        let refused =
            engine.execute(&format!("INSERT INTO members ({name}) VALUES ('a..b@quarryfarm.org')"), []);
        assert!(refused.unwrap_err().to_string().contains(sentence));
        assert_eq!(
            engine.execute(&format!("INSERT INTO members ({name}) VALUES ('ab@quarryfarm.org')"), []),
            Ok(1)
        );
        let wrong = engine.execute(&format!("UPDATE members SET {name} = 'ab@quarryfarm.zzzz'"), []);
        assert!(wrong.unwrap_err().to_string().contains("unknown_tld"));
    }
}
