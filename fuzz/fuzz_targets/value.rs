#![no_main]

libfuzzer_sys::fuzz_target!(|data: &[u8]| fingerpost_proof::fuzzed::value(data));
