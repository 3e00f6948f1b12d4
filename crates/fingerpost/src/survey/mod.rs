//! Questions over the whole site. Each is a function from a [`Site`](crate::site::Site) or a folder to plain data.

pub mod guess;
pub mod idle;
