//! `skerry-server [FOLDER] [PORT] [login] [tls]`: serves the demo site that is made from templates.

use std::path::PathBuf;
use std::process::ExitCode;

use skerry_server::{Options, Server};

fn main() -> ExitCode {
    let mut words: Vec<String> = std::env::args().skip(1).collect();
    let mut takes = |word: &str| {
        let before = words.len();
        words.retain(|given| given != word);
        words.len() < before
    };
    let (login, tls) = (takes("login"), takes("tls"));
    let mut words = words.into_iter();
    let here = concat!(env!("CARGO_MANIFEST_DIR"), "/../served");
    let folder = words
        .next()
        .map_or_else(|| PathBuf::from(here), PathBuf::from);
    let port = match words.next().map(|word| word.parse()) {
        None => 8740,
        Some(Ok(port)) => port,
        Some(Err(_)) => {
            eprintln!("skerry-server: expected a folder and a port, such as demo/served 8740");
            return ExitCode::from(2);
        }
    };
    match Server::start(&folder, Options { port, login, tls }) {
        Ok(server) => {
            println!("Serving {} at {}", folder.display(), server.url("/"));
            server.wait();
            ExitCode::SUCCESS
        }
        Err(error) => {
            eprintln!("skerry-server: port {port} can't be used: {error}");
            ExitCode::from(2)
        }
    }
}
