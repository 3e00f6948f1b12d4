//! Pages that a server makes, with the real command and the stand-in server of the demo: styles go to
//! the files that mounts serve, markup goes to the templates.

use std::fs;
use std::path::Path;

use crate::site::Words;
use assert_cmd::Command;
use skerry_server::{Options, PREVIEW_HEADER, Server};
use tempfile::TempDir;

fn copy(from: &Path, to: &Path) {
    fs::create_dir_all(to).unwrap();
    for entry in fs::read_dir(from).unwrap() {
        let entry = entry.unwrap();
        let target = to.join(entry.file_name());
        if entry.file_type().unwrap().is_dir() {
            copy(&entry.path(), &target);
        } else {
            fs::copy(entry.path(), target).unwrap();
        }
    }
}

struct Site {
    folder: TempDir,
    server: Server,
}

impl Site {
    fn new() -> Site {
        Site::with(Options::default())
    }

    fn with(options: Options) -> Site {
        let folder = TempDir::new().unwrap();
        copy(
            &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/served"),
            folder.path(),
        );
        let server = Server::start(folder.path(), options).unwrap();
        Site { folder, server }
    }

    fn read(&self, name: &str) -> String {
        fs::read_to_string(self.folder.path().join(name)).unwrap()
    }

    /// Runs the command in the site's folder; a word that begins with `/` is a page.
    fn run(&self, words: impl Words) -> (i32, String) {
        let words = words
            .words()
            .into_iter()
            .map(|word| match word.strip_prefix('/') {
                Some(_) => self.server.url(&word),
                None => word,
            });
        let output = Command::cargo_bin("fingerpost")
            .unwrap()
            .current_dir(self.folder.path())
            .args(words)
            .output()
            .unwrap();
        let answer = [output.stdout, output.stderr].concat();
        (
            output.status.code().unwrap(),
            String::from_utf8(answer).unwrap(),
        )
    }

    #[track_caller]
    fn good(&self, words: impl Words) -> String {
        let (status, answer) = self.run(words);
        assert_eq!(status, 0, "{answer}");
        answer
    }
}

#[test]
fn styles_reach_the_files_that_mounts_serve() {
    let site = Site::new();
    let why = ["why", "/crossings", ".is-late", "color"];
    let list = "theme/assets/css/parts/list.css";
    assert!(
        site.good(&why)
            .contains(&format!(".is-late  (0,1,0)  {list}:12  author, imported"))
    );
    site.good("edit set /crossings .is-late color teal");
    let tried = site.good(&why);
    assert!(tried.contains("rgb(0, 128, 128)"), "{tried}");
    assert!(site.read(list).contains("color: var(--rust);"));
    site.good(&["save"]);
    assert!(site.read(list).contains("color: teal;"));
    assert_eq!(
        site.good(&why),
        tried
            .split("\nThis answer counts")
            .next()
            .unwrap()
            .replace(" (unsaved)", "")
    );
    site.good(&["unsave"]);
    assert!(site.read(list).contains("color: var(--rust);"));
}

#[test]
fn the_override_sheet_takes_changes_of_served_pages() {
    let site = Site::new();
    let answer = site.good("edit set /home h1 color teal --into overrides");
    assert!(
        answer.contains(".page-title { color: teal } in the override sheet"),
        "{answer}"
    );
    site.good(&["save"]);
    assert!(
        site.read("theme/assets/css/overrides.css")
            .contains(".page-title {\n  color: teal;\n}")
    );
    // By its file name alone, too.
    let again = site.good("edit set /home h1 top 0 --into overrides.css");
    assert!(
        again.contains(".page-title { top: 0 } in the override sheet"),
        "{again}"
    );
}

/// A served site without an override sheet gets one: linked in the layout, by the path that the server has it under.
#[test]
fn an_override_sheet_is_made_and_linked_in_the_template() {
    let site = Site::new();
    let path = |name: &str| site.folder.path().join(name);
    let without = |name: &str, part: &str| {
        let text = site.read(name);
        let kept = text.lines().filter(|line| !line.contains(part));
        fs::write(path(name), kept.collect::<Vec<_>>().join("\n") + "\n").unwrap();
    };
    without("fingerpost.toml", "override-sheet");
    without("templates/layout.html", "overrides.css");
    fs::remove_file(path("theme/assets/css/overrides.css")).unwrap();
    let answer = site.good("edit set /crossings '#tip' color navy --into overrides");
    // The layout does not count as a second page with the id.
    assert!(answer.contains("#tip { color: navy }"), "{answer}");
    assert!(
        answer.contains("Nothing else changes on this page"),
        "{answer}"
    );
    let saved = site.good("save");
    assert!(
        saved.contains("rgb(0, 0, 128)"),
        "what changes on the served page is said: {saved}"
    );
    let layout = site.read("templates/layout.html");
    assert!(
        layout.contains("<link rel=\"stylesheet\" href=\"/assets/css/overrides.css\">"),
        "{layout}"
    );
    let why = site.good("why /crossings '#tip' color");
    assert!(
        why.contains("rgb(0, 0, 128)"),
        "the server has it now: {why}"
    );
}

#[test]
fn markup_is_changed_in_the_one_template_that_has_it() {
    let site = Site::new();
    let page = "templates/pages/crossings.html";
    let before = site.read(page);
    site.good("edit class /crossings '#tip' +wide");
    site.good("edit text /crossings '#tip p' 'Lash them to the stern rail.'");
    site.good("edit insert /crossings '#tip p' '<p>Mind the swell.</p>' --side after");
    site.good("edit text /crossings .brand 'The Skerry Line'");
    // The page shows it before the server does.
    assert!(
        site.good("find /crossings '#tip.wide'")
            .contains("Mind the swell.")
    );
    assert_eq!(site.read(page), before);
    site.good(&["save"]);
    let after = before
        .replace("class=\"tip\"", "class=\"tip wide\"")
        .replace(
            "<p>Lash bicycles to the rail.</p>",
            "<p>Lash them to the stern rail.</p>\n      <p>Mind the swell.</p>",
        );
    assert_eq!(site.read(page), after);
    assert!(
        site.read("templates/layout.html")
            .contains("<a class=\"brand\" href=\"/\">The Skerry Line</a>")
    );
    assert!(
        site.good("find /crossings '#tip.wide'")
            .contains("Mind the swell.")
    );
}

#[test]
fn what_a_tag_alone_does_not_tell_apart_the_text_does() {
    let site = Site::new();
    site.good("edit attribute /home .lead:last-child title Paws");
    site.good(&["save"]);
    let home = site.read("templates/pages/home.html");
    assert!(
        home.contains("<p class=\"lead\" title=\"Paws\">Dogs travel free.</p>"),
        "{home}"
    );
    assert!(home.contains("<p class=\"lead\">Tea"), "{home}");
}

/// The list is written by one line of the template, with tags of its language in it: all of its items change, and the page shows
/// after the save what it showed in the draft.
#[test]
fn what_a_loop_makes_is_changed_where_the_loop_is() {
    let site = Site::new();
    let answer = site.good("edit class /crossings .is-late +x");
    assert!(
        answer.contains("templates/pages/crossings.html:7:67 writes this 3 times on this page; all of them change"),
        "{answer}"
    );
    let tried = site.good("tree /crossings --quiet");
    site.good(&["save"]);
    assert_eq!(site.good("tree /crossings --quiet"), tried);
    assert!(
        site.read("templates/pages/crossings.html")
            .contains("<li class=\"crossing{% if crossing.late %} is-late{% endif %} x\">")
    );
}

#[test]
fn what_comes_from_data_is_refused_with_the_file_that_has_it() {
    let site = Site::new();
    let (status, answer) = site.run("edit text /crossings 'li:nth-child(2) time' 09:45");
    assert_eq!(status, 2, "{answer}");
    assert!(
        answer.contains("{{ crossing.time }} at templates/pages/crossings.html:7:"),
        "{answer}"
    );
    assert!(answer.contains("data/crossings.json:"), "{answer}");
}

#[test]
fn the_same_markup_in_several_places_is_refused_with_all_of_them() {
    let site = Site::new();
    let twice = site.read("templates/pages/home.html").replace(
        "{% endblock %}",
        &format!(
            "{}{{% endblock %}}",
            "    <p class=\"lead\">Dogs travel free.</p>\n".repeat(4)
        ),
    );
    fs::write(site.folder.path().join("templates/pages/home.html"), twice).unwrap();
    let (status, answer) = site.run("edit class /home '.lead:nth-child(5)' +x");
    assert_eq!(status, 2);
    assert!(
        answer.contains("in several places: templates/pages/home.html:"),
        "{answer}"
    );
}

#[test]
fn servers_that_do_not_answer_are_said() {
    let site = Site::new();
    let (status, answer) = site.run("find /no-such-page h1");
    assert_eq!(status, 2);
    assert!(
        answer.contains("can't be fetched: the server answers with status 404"),
        "{answer}"
    );
    let (status, answer) = site.run("find http://127.0.0.1:9/ h1");
    assert_eq!(status, 2);
    assert!(
        answer.contains("http://127.0.0.1:9/: can't be fetched"),
        "{answer}"
    );
}

/// Folders of templates are known by their names.
#[test]
fn templates_are_found_without_a_configuration() {
    let site = Site::new();
    let config = site
        .read("fingerpost.toml")
        .replace("templates = ", "# templates = ");
    let path = |name: &str| site.folder.path().join(name);
    fs::write(path("fingerpost.toml"), config).unwrap();
    let answer = site.good("edit class /home h1 +x");
    assert!(answer.contains("templates/pages/home.html"), "{answer}");
}

/// All files of the site, its state folder's too, in one text.
fn all_files(folder: &Path) -> String {
    let mut all = String::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        match path.is_dir() {
            true => all += &all_files(&path),
            false => all += &String::from_utf8_lossy(&fs::read(&path).unwrap()),
        }
    }
    all
}

#[test]
fn a_preview_behind_a_login_is_asked_with_a_header_that_nobody_sees() {
    let site = Site::with(Options {
        login: true,
        ..Options::default()
    });
    // Without it the login is what the server shows, and the answer says so.
    let login = site.good("tree /crossings");
    assert!(login.contains("redirects to"), "{login}");
    assert!(login.contains("Password"), "{login}");
    let (name, value) = PREVIEW_HEADER;
    let header = format!("{name}: {value}");
    let why = [
        "why",
        "/crossings",
        ".is-late",
        "color",
        "--header",
        &header,
    ];
    let answer = site.good(&why);
    assert!(
        answer.contains("theme/assets/css/parts/list.css:12"),
        "{answer}"
    );
    // The draft, what the site remembers, and the advice of a refusal are free of it.
    let set = [
        "edit",
        "set",
        "/crossings",
        ".is-late",
        "color",
        "teal",
        "--header",
        &header,
    ];
    let mut printed = site.good(&set);
    for more in [
        [
            "edit",
            "set",
            "/crossings",
            "li",
            "color",
            "12px",
            "--header",
            &header,
        ],
        [
            "edit",
            "set",
            "/crossings",
            ".none",
            "color",
            "red",
            "--header",
            &header,
        ],
        [
            "edit",
            "text",
            "/crossings",
            "li",
            "",
            "x",
            "--header",
            &header,
        ],
    ] {
        printed += &site.run(&more).1;
    }
    assert!(!printed.contains(value), "{printed}");
    assert!(!all_files(site.folder.path()).contains(value));
    // A header that can't be read is not repeated either.
    let (status, refused) = site.run(&["tree", "/crossings", "--header", "lantern-without-a-name"]);
    assert_eq!(status, 2);
    assert!(refused.contains("expected NAME: VALUE"), "{refused}");
    assert!(!refused.contains("lantern"), "{refused}");
}

#[test]
fn the_headers_of_a_preview_can_be_in_a_file_of_the_site() {
    let site = Site::with(Options {
        login: true,
        ..Options::default()
    });
    let path = |name: &str| site.folder.path().join(name);
    let (name, value) = PREVIEW_HEADER;
    let config = site.read("fingerpost.toml");
    let named = |file: &str| {
        let key = format!("headers = \"{file}\"\n{config}");
        fs::write(path("fingerpost.toml"), key).unwrap();
    };
    fs::write(
        path(".preview"),
        format!("# the preview\n\n{name}: {value}\n"),
    )
    .unwrap();
    named(".preview");
    let answer = site.good("values /crossings .is-late color");
    assert!(answer.contains("color"), "{answer}");
    // A wrong line is named by its place; its text is not repeated.
    fs::write(path(".preview"), format!("{name}: {value}\nsecret\n")).unwrap();
    let (status, answer) = site.run("values /crossings .is-late color");
    assert_eq!(status, 2);
    assert!(
        answer.contains(".preview:2: this line can't be read"),
        "{answer}"
    );
    assert!(!answer.contains("secret"), "{answer}");
    // A theme can't have another file of this machine sent.
    for outside in ["../headers", "/etc/hostname"] {
        named(outside);
        let (status, answer) = site.run("values /crossings .is-late color");
        assert_eq!(status, 2, "{answer}");
    }
}

#[test]
fn a_site_over_tls_is_asked_and_its_own_certificate_is_said() {
    let site = Site::with(Options {
        tls: true,
        ..Options::default()
    });
    let answer = site.good("why /crossings .is-late color");
    assert!(
        answer.contains("accepted, because the server is on this machine"),
        "{answer}"
    );
    assert!(answer.contains("parts/list.css:12"), "{answer}");
    // With the certificate in hand nothing needs to be said.
    let pem = site.folder.path().join("own.pem");
    fs::write(&pem, site.server.certificate().unwrap()).unwrap();
    let trusted = ["why", "/crossings", ".is-late", "color", "--ca", "own.pem"];
    let answer = site.good(&trusted);
    assert!(!answer.contains("accepted"), "{answer}");
    // Another certificate is not enough.
    let other = Site::with(Options {
        tls: true,
        ..Options::default()
    });
    fs::write(&pem, other.server.certificate().unwrap()).unwrap();
    let (status, answer) = site.run(&trusted);
    assert_eq!(status, 2);
    assert!(answer.contains("certificate is not"), "{answer}");
    let (_, answer) = site.run(&["tree", "/crossings", "--ca", "fingerpost.toml"]);
    assert!(answer.contains("it holds no certificate"), "{answer}");
}

#[test]
fn redirects_are_followed_on_the_server_that_was_named_only() {
    let site = Site::new();
    let answer = site.good("find /start h1");
    assert!(answer.contains("/start redirects to"), "{answer}");
    assert!(answer.contains("h1"), "{answer}");
    let (status, answer) = site.run("find /away h1");
    assert_eq!(status, 2);
    assert!(
        answer.contains(
            "http://elsewhere.example is not asked; the page's URL names http://127.0.0.1"
        ),
        "{answer}"
    );
}
