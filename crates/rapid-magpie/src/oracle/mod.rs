//! The oracle: a running game asks the model by JSON-RPC 2.0, one message a line, over standard input and output or a socket of
//! this machine; every connection has a game of its own.

mod answers;
mod calls;
mod game;
mod wire;

use anyhow::{Context, bail};
pub use game::Served;
use signal_hook::consts::SIGTERM;
use std::io::{Read, Write};
use std::net::{Ipv4Addr, SocketAddr, TcpListener, TcpStream};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::Duration;
use wire::Ends;

/// Most connections at a time.
const MOST_CONNECTIONS: usize = crate::limits::MOST_CONNECTIONS;

/// Whether the program has been asked to end.
fn asked_to_end() -> anyhow::Result<Arc<AtomicBool>> {
    let flag = Arc::new(AtomicBool::new(false));
    signal_hook::flag::register(SIGTERM, flag.clone()).context("SIGTERM cannot be heard")?;
    Ok(flag)
}

/// Serves standard input and output until the input ends.
pub fn stdio(served: &Served) -> anyhow::Result<()> {
    let ending = asked_to_end()?;
    let (input, output) = (std::io::stdin(), std::io::stdout());
    let why = wire::converse(served, Box::new(input), &mut output.lock(), &ending);
    tracing::info!(?why, "standard input and output end");
    Ok(())
}

/// An address of this machine, as `127.0.0.1:PORT`.
fn loopback(address: &str) -> anyhow::Result<SocketAddr> {
    let address = address.replace("localhost", "127.0.0.1");
    let found: SocketAddr =
        address.parse().with_context(|| format!("`{address}` is no address like 127.0.0.1:7000"))?;
    if !found.ip().is_loopback() {
        bail!("`{address}` can be reached from elsewhere: only 127.0.0.1 is served");
    }
    Ok(found)
}

/// Serves a socket of this machine until SIGTERM; tells its address when it is ready.
pub fn listen(served: Served, address: &str, ready: impl FnOnce(&str) -> std::io::Result<()>) -> anyhow::Result<()> {
    let address = loopback(address)?;
    let ending = asked_to_end()?;
    let listener = TcpListener::bind(address).with_context(|| format!("cannot listen on {address}"))?;
    listener.set_nonblocking(true).context("the socket cannot be polled")?;
    let port = listener.local_addr().context("the socket has no address")?.port();
    ready(&format!("{}:{port}", Ipv4Addr::LOCALHOST))?;
    let served = Arc::new(served);
    let open = Arc::new(AtomicUsize::new(0));
    let mut threads: Vec<std::thread::JoinHandle<()>> = Vec::new();
    while !ending.load(Ordering::Relaxed) {
        threads.retain(|thread| !thread.is_finished());
        match listener.accept() {
            Ok((stream, from)) => {
                tracing::info!(%from, "a connection");
                threads.extend(connect(stream, &served, &open, &ending));
            }
            Err(_) => std::thread::sleep(Duration::from_millis(10)),
        }
    }
    // Every connection is told, and has ended.
    threads.into_iter().for_each(|thread| drop(thread.join()));
    Ok(())
}

/// Serves a connection on a thread of its own; one too many is told and ends.
fn connect(
    stream: TcpStream,
    served: &Arc<Served>,
    open: &Arc<AtomicUsize>,
    ending: &Arc<AtomicBool>,
) -> Option<std::thread::JoinHandle<()>> {
    // A client that reads nothing holds nobody up for long.
    let ready = stream.set_nonblocking(false).and_then(|()| stream.set_write_timeout(Some(wire::LONGEST_SILENCE)));
    let mut writer = ready.and_then(|()| stream.try_clone()).ok()?;
    if open.fetch_add(1, Ordering::SeqCst) >= MOST_CONNECTIONS {
        open.fetch_sub(1, Ordering::SeqCst);
        let text = answers::refusal(answers::SERVER, "too many connections: 64 are served at a time");
        let _ = writeln!(writer, "{text}");
        return None;
    }
    let (served, open, ending) = (served.clone(), open.clone(), ending.clone());
    let thread = std::thread::Builder::new().name("connection".into()).spawn(move || {
        let reader: Box<dyn Read + Send> = match stream.try_clone() {
            Ok(stream) => Box::new(stream),
            Err(_) => Box::new(std::io::empty()),
        };
        let why = wire::converse(&served, reader, &mut writer, &ending);
        if why == Ends::Asked {
            let _ = writeln!(writer, "{}", answers::closing());
        }
        tracing::info!(?why, "a connection ends");
        let _ = stream.shutdown(std::net::Shutdown::Both);
        open.fetch_sub(1, Ordering::SeqCst);
    });
    thread.ok()
}
