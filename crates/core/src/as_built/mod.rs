//! The sheet of what was built: what is to be found again, where the antenna looks, and what of it is given to others.

mod aim;
mod expected;
mod share;

pub use aim::aim;
pub use expected::{carriers, speeds};
pub use share::share;
