//! The live page: served on the loopback address, to clients with its token.

pub mod messages;
mod page;
mod session;

use std::net::{Ipv4Addr, SocketAddr};
use std::path::PathBuf;
use std::sync::Arc;
use std::time::{Duration, Instant};

use axum::Router;
use axum::extract::ws::{Message, WebSocket, WebSocketUpgrade};
use axum::extract::{Path, Query, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::service::TowerToHyperService;
use tokio::sync::mpsc;

use crate::files::Library;
use messages::Answer;
use session::Session;

/// The maximum size of a message in bytes: one that opens a link contains the inputs of an attempt.
const LONGEST_MESSAGE: usize = 128 * 1024;
/// The maximum number of messages per second that are answered; a page sends about 60.
const MOST_MESSAGES: u32 = 600;
/// How often files are checked for changes by other programs.
const LOOK: Duration = Duration::from_millis(400);

/// What is played, and where files are saved.
#[derive(Clone, Debug)]
pub struct Setting {
    /// Where files are read from.
    pub library: Library,
    /// A trial or a level.
    pub place: String,
    pub tuning: Option<String>,
    /// A binding file; the default bindings without one.
    pub bindings: Option<PathBuf>,
    /// That of a second player; the shipped one without it.
    pub second_bindings: Option<PathBuf>,
    pub out: PathBuf,
}

struct Host {
    setting: Setting,
    token: String,
    port: u16,
}

#[derive(serde::Deserialize)]
struct Key {
    #[serde(default)]
    token: String,
}

/// Serves the page until the program ends. `ready` is called with its address.
///
/// # Errors
/// If the port is not available, or the error of `ready`.
pub fn serve(
    setting: Setting,
    port: u16,
    ready: impl FnOnce(&str) -> Result<(), crate::output::Failure>,
) -> std::io::Result<()> {
    // Pages do not wait for each other: one may read a large file, another may send more messages
    // than are answered.
    let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(WORKERS).enable_all().build()?;
    runtime.block_on(async {
        let listener = tokio::net::TcpListener::bind(SocketAddr::from((Ipv4Addr::LOCALHOST, port))).await?;
        let port = listener.local_addr()?.port();
        let token = token()?;
        ready(&format!("http://127.0.0.1:{port}/?token={token}"))
            .map_err(|failure| std::io::Error::other(failure.to_string()))?;
        let host = Arc::new(Host { setting, token, port });
        let router = Router::new()
            .route("/", get(front))
            .route("/session", get(session))
            .route("/{*file}", get(file))
            .with_state(host);
        loop {
            // A connection that closes early, or a system limit, does not stop the server.
            let Ok((line, _)) = listener.accept().await else {
                tokio::time::sleep(Duration::from_millis(50)).await;
                continue;
            };
            // Messages are sent at once, because a delayed message is seen late.
            let _ = line.set_nodelay(true);
            let service = TowerToHyperService::new(router.clone());
            tokio::spawn(async move {
                let mut server = http1::Builder::new();
                // An idle connection is closed.
                server.timer(TokioTimer::new()).header_read_timeout(UNASKED);
                let _ = server.serve_connection(TokioIo::new(line), service).with_upgrades().await;
            });
        }
    })
}

/// A secret of 128 random bits, from the system.
fn token() -> std::io::Result<String> {
    let mut bytes = [0; 16];
    getrandom::fill(&mut bytes).map_err(std::io::Error::other)?;
    Ok(format!("{:032x}", u128::from_le_bytes(bytes)))
}

impl Host {
    /// Returns true if a request addresses this page by its own name. Pages of other sites cannot
    /// make such a request.
    fn is_named(&self, headers: &HeaderMap) -> bool {
        let is_own = |text: &str| {
            text == format!("127.0.0.1:{}", self.port) || text == format!("localhost:{}", self.port)
        };
        let of = |name| headers.get(name).map(|value| value.to_str().unwrap_or(""));
        let host = of(header::HOST).is_some_and(is_own);
        let origin =
            of(header::ORIGIN).is_none_or(|origin| origin.strip_prefix("http://").is_some_and(is_own));
        host && origin
    }

    /// Compares in constant time.
    fn has_token(&self, key: &Key) -> bool {
        let (own, given) = (self.token.as_bytes(), key.token.as_bytes());
        own.len() == given.len() && own.iter().zip(given).fold(0, |all, (a, b)| all | (a ^ b)) == 0
    }
}

fn refused(why: &str) -> Response {
    (StatusCode::FORBIDDEN, [(header::CONTENT_TYPE, "text/plain; charset=utf-8")], format!("{why}\n"))
        .into_response()
}

/// The time after which a connection without a complete request is closed.
const UNASKED: Duration = Duration::from_secs(10);
/// How often a page is pinged.
const ASKED: Duration = Duration::from_secs(15);
/// The time after which a page that does not answer is closed.
const SILENT: Duration = Duration::from_secs(60);
/// The number of threads that serve pages.
const WORKERS: usize = 4;
const NOT_NAMED: &str = "this page can only be opened on this computer, by its own address";
const NO_TOKEN: &str = "the address lacks the token that `rasant play` printed";

async fn front(State(host): State<Arc<Host>>, Query(key): Query<Key>, headers: HeaderMap) -> Response {
    if !host.is_named(&headers) {
        refused(NOT_NAMED)
    } else if !host.has_token(&key) {
        refused(NO_TOKEN)
    } else {
        page::file("index.html")
    }
}

async fn file(State(host): State<Arc<Host>>, Path(path): Path<String>, headers: HeaderMap) -> Response {
    if host.is_named(&headers) { page::file(&path) } else { refused(NOT_NAMED) }
}

async fn session(
    State(host): State<Arc<Host>>,
    Query(key): Query<Key>,
    headers: HeaderMap,
    upgrade: WebSocketUpgrade,
) -> Response {
    if !host.is_named(&headers) || headers.get(header::ORIGIN).is_none() {
        return refused(NOT_NAMED);
    }
    if !host.has_token(&key) {
        return refused(NO_TOKEN);
    }
    let setting = host.setting.clone();
    upgrade.max_message_size(LONGEST_MESSAGE).on_upgrade(move |socket| play(Session::new(setting), socket))
}

/// Serves one page with its own session, until the page is closed.
async fn play(session: Result<Session, rasant_lab::Problem>, mut socket: WebSocket) {
    let mut session = match session {
        Ok(session) => session,
        Err(problem) => {
            let _ = send(&mut socket, &Answer::problem(problem.to_string())).await;
            return;
        }
    };
    let (measured, mut measurements) = mpsc::unbounded_channel();
    for answer in session.welcome() {
        if send(&mut socket, &answer).await.is_err() {
            return;
        }
    }
    let mut looks = tokio::time::interval(LOOK);
    looks.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
    let mut asks = tokio::time::interval(ASKED);
    asks.set_missed_tick_behavior(tokio::time::MissedTickBehavior::Delay);
    let mut last_heard = Instant::now();
    let (mut second, mut heard) = (Instant::now(), 0);
    loop {
        let answers = tokio::select! {
            message = socket.recv() => {
                let Some(Ok(message)) = message else { return };
                last_heard = Instant::now();
                if second.elapsed() > Duration::from_secs(1) {
                    (second, heard) = (Instant::now(), 0);
                }
                heard += 1;
                match message {
                    Message::Text(_) if heard == MOST_MESSAGES => {
                        vec![Answer::problem("too many messages: some are not answered")]
                    }
                    Message::Text(text) if heard < MOST_MESSAGES => session.hear(&text),
                    Message::Close(_) => return,
                    _ => continue,
                }
            }
            Some(figures) = measurements.recv() => session.measured(figures),
            _ = looks.tick() => session.look_at_files(),
            _ = asks.tick() => {
                // A page that was closed without notice does not answer.
                let is_silent = last_heard.elapsed() > SILENT;
                if is_silent || socket.send(Message::Ping(Default::default())).await.is_err() {
                    return;
                }
                continue;
            }
        };
        if let Some(measuring) = session.next_measuring() {
            let measured = measured.clone();
            tokio::task::spawn_blocking(move || {
                // The page may have been closed meanwhile.
                let _ = measured.send(measuring.measure());
            });
        }
        for answer in answers {
            if send(&mut socket, &answer).await.is_err() {
                return;
            }
        }
    }
}

async fn send(socket: &mut WebSocket, answer: &Answer) -> Result<(), axum::Error> {
    let text = serde_json::to_string(answer).map_err(axum::Error::new)?;
    socket.send(Message::Text(text.into())).await
}
