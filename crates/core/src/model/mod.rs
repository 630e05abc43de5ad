//! The values of the job. Every later stage speaks in these words.

mod bundle;
mod check;
mod ids;
mod reading;
mod run;
mod settings;
mod setup;
mod site;
mod speed;

pub use bundle::*;
pub use check::*;
pub use ids::*;
pub use reading::*;
pub use run::*;
pub use settings::*;
pub use setup::*;
pub use site::*;
pub use speed::*;
