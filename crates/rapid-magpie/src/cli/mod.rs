//! The command line: one file a command (docs/formats.md).

mod check;
mod compare;
mod convert;
mod demo;
mod diagnose;
mod draw;
mod drive;
mod emit;
mod fmt;
mod formula;
mod gaps;
mod lsp;
mod measure;
mod new;
mod pace;
mod play;
mod prove;
mod serve;
mod source;
mod test;
mod vectors;

use crate::words::{is_hidden, plain};
use crate::yard::Open;
use clap::{CommandFactory, Parser, Subcommand};
use serde::Serialize;
use serde_json::ser::{Formatter, PrettyFormatter, Serializer};
use std::io::{BufWriter, Write as _};
use std::path::PathBuf;
use std::process::ExitCode;

/// What a command comes to: its exit code.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Answer {
    /// 0: done.
    Done,
    /// 1: the answer is no.
    No,
    /// 2: wrong use, or an unreadable or wrong file.
    Wrong,
    /// 3: a limit was reached before the answer.
    Limit,
}

impl From<Answer> for ExitCode {
    fn from(answer: Answer) -> Self {
        Self::from(match answer {
            Answer::Done => 0,
            Answer::No => 1,
            Answer::Wrong => 2,
            Answer::Limit => 3,
        })
    }
}

/// A workbench for people who program games on a grid.
#[derive(Debug, Parser)]
#[command(name = "rapid-magpie", version, args_conflicts_with_subcommands = true, disable_help_subcommand = true)]
struct Arguments {
    #[command(subcommand)]
    command: Option<Command>,
    /// The rulebook to open in the workbench; without one, the demo yard's list.
    file: Option<PathBuf>,
    /// A log that your running game writes: it is followed on the Trace bench.
    #[arg(long, value_name = "LOG", requires = "file")]
    follow: Option<PathBuf>,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Open a demo on a private copy that can be edited freely.
    Demo(demo::Options),
    /// Write a small commented rulebook to begin with.
    New(new::Options),
    /// Hold what your program says it did against the model, and name the mistake.
    Compare(compare::Options),
    /// Give your program inputs and hold every answer against the model.
    Drive(drive::Options),
    /// Write the geometry as source code in another language, with a test program beside it.
    Emit(emit::Options),
    /// Tell what is wrong with rulebooks.
    Check(check::Options),
    /// Bring rulebooks into one layout.
    Fmt(fmt::Options),
    /// Convert positions: pixels, cells, indices.
    Convert(convert::Options),
    /// Measure your step, your loop over pixels, the artwork's grid, and all headings.
    Measure(measure::Options),
    /// Hold your own expressions against the right answers.
    Formula(formula::Options),
    /// Name the mistake behind the numbers that your program printed.
    Diagnose(diagnose::Options),
    /// Draw a board or a position, as SVG or PDF.
    Draw(draw::Options),
    /// Run the motion between two cells, frame by frame.
    Pace(pace::Options),
    /// Play inputs and tell every answer.
    Play(play::Options),
    /// Prove what is true of every way to play: whether it can be won, lost, spoilt, and which promises hold.
    Prove(prove::Options),
    /// Serve rulebooks to your editor (Language Server Protocol 3.17).
    Lsp,
    /// Answer the questions of a running game about the model (JSON-RPC 2.0).
    Serve(serve::Options),
    /// Run the scenarios of rulebooks, and their invariants along tapes.
    Test(test::Options),
    /// Write test vectors: the fewest inputs on which every known mistake fails, with the right answers.
    Vectors(vectors::Options),
    /// Print a completion script for a shell.
    Completions {
        /// The shell.
        shell: clap_complete::Shell,
    },
}

/// What the arguments come to.
#[derive(Debug)]
pub enum Run {
    /// A command has done its work.
    Done(Answer),
    /// The workbench is to be opened.
    Open(Open),
}

/// Runs the command that the arguments name.
pub fn run() -> Run {
    let arguments = match Arguments::try_parse() {
        Ok(arguments) => arguments,
        Err(error) => {
            if error.use_stderr() {
                // It repeats what was typed, which may hold anything.
                crate::words::tell(error.render().to_string().trim_end());
                return Run::Done(Answer::Wrong);
            }
            // Nothing is left to do where even the help cannot be written.
            let _ = error.print();
            return Run::Done(Answer::Done);
        }
    };
    let result = match arguments.command {
        None => {
            return Run::Open(match (arguments.file, arguments.follow) {
                (Some(file), Some(log)) => Open::Following(file, log),
                (Some(file), None) => Open::File(file),
                (None, _) => Open::Yard,
            });
        }
        Some(Command::Demo(options)) => match demo::run(&options) {
            Ok(run) => return run,
            Err(error) => Err(error),
        },
        Some(Command::New(options)) => new::run(&options),
        Some(Command::Compare(options)) => compare::run(&options),
        Some(Command::Drive(options)) => drive::run(&options),
        Some(Command::Emit(options)) => emit::run(&options),
        Some(Command::Check(options)) => check::run(&options),
        Some(Command::Fmt(options)) => fmt::run(&options),
        Some(Command::Convert(options)) => convert::run(&options),
        Some(Command::Measure(options)) => measure::run(&options),
        Some(Command::Formula(options)) => formula::run(&options),
        Some(Command::Diagnose(options)) => diagnose::run(&options),
        Some(Command::Draw(options)) => draw::run(&options),
        Some(Command::Pace(options)) => pace::run(&options),
        Some(Command::Play(options)) => play::run(&options),
        Some(Command::Prove(options)) => prove::run(&options),
        Some(Command::Lsp) => lsp::run(),
        Some(Command::Serve(options)) => serve::run(&options),
        Some(Command::Test(options)) => test::run(&options),
        Some(Command::Vectors(options)) => vectors::run(&options),
        Some(Command::Completions { shell }) => {
            // Into memory first: a reader that goes away is no fault.
            let mut script = Vec::new();
            clap_complete::generate(shell, &mut Arguments::command(), "rapid-magpie", &mut script);
            std::io::stdout().write_all(&script).map(|()| Answer::Done).map_err(anyhow::Error::from)
        }
    };
    Run::Done(result.unwrap_or_else(|error| failed(&error)))
}

/// Tells an error that ends the program.
pub fn failed(error: &anyhow::Error) -> Answer {
    if !is_closed_pipe(error) {
        complain!("{error:#}");
    }
    Answer::Wrong
}

/// A reader that went away (`| head`) is no mistake worth a word.
fn is_closed_pipe(error: &anyhow::Error) -> bool {
    let of = |error: &std::io::Error| error.kind() == std::io::ErrorKind::BrokenPipe;
    error.downcast_ref::<std::io::Error>().is_some_and(of)
}

/// Prints a line of text to standard output, without what a terminal would obey; a closed pipe is an error that ends the
/// command quietly.
macro_rules! say {
    () => { $crate::cli::print("") };
    ($($part:tt)*) => { $crate::cli::print(&format!($($part)*)) };
}
use say;

/// The same to standard error, which nobody has to read.
macro_rules! complain {
    ($($part:tt)*) => { $crate::words::tell(&format!("rapid-magpie: {}", format_args!($($part)*))) };
}
use complain;

fn print(text: &str) -> std::io::Result<()> {
    writeln!(std::io::stdout().lock(), "{}", plain(text))
}

/// Prints a document as JSON, piece by piece: it may be larger than what fits into memory. Control and turning characters
/// stand in it escaped, so that names stay what they are.
fn say_json(document: &impl Serialize) -> anyhow::Result<()> {
    let mut out = BufWriter::new(std::io::stdout().lock());
    document
        .serialize(&mut Serializer::with_formatter(&mut out, Escaping(PrettyFormatter::new())))
        .map_err(io_error)?;
    writeln!(out)?;
    Ok(out.flush()?)
}

/// What a document could not be written for.
fn io_error(error: serde_json::Error) -> anyhow::Error {
    if error.is_io() { std::io::Error::from(error).into() } else { error.into() }
}

/// The usual layout, with hidden characters escaped.
struct Escaping(PrettyFormatter<'static>);

/// Hands methods of a formatter over to the usual one.
macro_rules! as_usual {
    ($($name:ident $(, $first:ident: $sort:ty)?;)*) => {
        $(fn $name<W: ?Sized + std::io::Write>(&mut self, writer: &mut W $(, $first: $sort)?) -> std::io::Result<()> {
            self.0.$name(writer $(, $first)?)
        })*
    };
}

impl Formatter for Escaping {
    as_usual! {
        begin_array;
        end_array;
        begin_array_value, first: bool;
        end_array_value;
        begin_object;
        end_object;
        begin_object_key, first: bool;
        begin_object_value;
        end_object_value;
    }

    fn write_string_fragment<W: ?Sized + std::io::Write>(&mut self, writer: &mut W, text: &str) -> std::io::Result<()> {
        let mut rest = text;
        while let Some(at) = rest.find(is_hidden) {
            let (plain, behind) = rest.split_at(at);
            writer.write_all(plain.as_bytes())?;
            let mut characters = behind.chars();
            if let Some(hidden) = characters.next() {
                for unit in hidden.encode_utf16(&mut [0; 2]) {
                    write!(writer, "\\u{unit:04x}")?;
                }
            }
            rest = characters.as_str();
        }
        writer.write_all(rest.as_bytes())
    }
}
