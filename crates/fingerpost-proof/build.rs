include!("../test-browser/detect.rs");
