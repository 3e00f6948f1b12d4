//! Compares Fingerpost's answers with what a browser engine computes. The crate holds tests only: see
//! `tests/engine`.
