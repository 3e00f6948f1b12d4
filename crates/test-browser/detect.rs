// Whether Chromium and its driver are on the path, for the build scripts of packages with tests in a browser: `cfg(browser)`.
// Without it those tests are ignored, which their output counts.

fn main() {
    println!("cargo::rustc-check-cfg=cfg(browser)");
    println!("cargo::rerun-if-changed=build.rs");
    println!("cargo::rerun-if-env-changed=PATH");
    let path = std::env::var_os("PATH").unwrap_or_default();
    let is_there = |program: &str| {
        let mut folders = std::env::split_paths(&path);
        let found = folders.find(|folder| folder.join(program).is_file());
        // Looked at again when it comes or goes.
        let usual = std::path::Path::new("/usr/bin").join(program);
        let file = found.map_or(usual, |folder| folder.join(program));
        println!("cargo::rerun-if-changed={}", file.display());
        file.is_file()
    };
    if is_there("chromium") & is_there("chromedriver") {
        println!("cargo::rustc-cfg=browser");
    }
}
