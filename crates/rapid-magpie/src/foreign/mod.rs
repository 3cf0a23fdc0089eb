//! Other people's programs: processes that are driven, and logs that are read, finished or growing. No screen.

mod follow;
mod log;
mod process;

pub use follow::{Followed, follow};
pub use log::FileLog;
pub use process::Process;
