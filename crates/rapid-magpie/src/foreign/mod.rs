//! Other people's programs: processes that are driven, and logs that are read, finished or growing. No screen.

mod log;
mod process;

pub use log::FileLog;
pub use process::Process;
