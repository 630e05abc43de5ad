//! The values of the job. Every later stage speaks in these words.

mod assume;
mod bundle;
mod gateway;
mod ids;
mod kit;
mod measuring;
mod origin;
mod part;
mod reading;
mod run;
mod settings;
mod setup;
mod site;
mod sitting;
mod speed;
mod survey;
mod sweep;
mod trial;

pub use assume::*;
pub use bundle::*;
pub use gateway::*;
pub use ids::*;
pub use kit::*;
pub use measuring::{Measuring, MeasuringProgress};
pub use origin::{is_own_path, origin_of, without_user_info};
pub use part::*;
pub use reading::*;
pub use run::*;
pub use settings::*;
pub use setup::*;
pub use site::*;
pub use sitting::*;
pub use speed::*;
pub use survey::*;
pub use sweep::*;
pub use trial::*;
