//! A client that speaks the page's messages over a plain socket.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::Duration;

use futures_util::{SinkExt, StreamExt};
use serde_json::{Value, json};
use tokio_tungstenite::tungstenite::Message;
use tokio_tungstenite::tungstenite::client::IntoClientRequest;
use tokio_tungstenite::{MaybeTlsStream, WebSocketStream, connect_async};

use super::Tool;

pub type Line = WebSocketStream<MaybeTlsStream<tokio::net::TcpStream>>;

/// Asks for a path by a host's name; gives the status line and the text.
pub fn get(tool: &Tool, path: &str, host: &str, more: &str) -> (String, String) {
    let mut stream = TcpStream::connect(tool.host()).unwrap();
    write!(stream, "GET {path} HTTP/1.1\r\nHost: {host}\r\n{more}Connection: close\r\n\r\n").unwrap();
    let mut answer = String::new();
    stream.read_to_string(&mut answer).unwrap();
    let (head, text) = answer.split_once("\r\n\r\n").unwrap_or((&answer, ""));
    (head.lines().next().unwrap().to_owned(), text.to_owned())
}

pub async fn try_connect(tool: &Tool, token: &str, origin: Option<&str>) -> Result<Line, String> {
    let mut request = format!("ws://{}/session?token={token}", tool.host()).into_client_request().unwrap();
    if let Some(origin) = origin {
        request.headers_mut().insert("origin", origin.parse().unwrap());
    }
    connect_async(request).await.map(|(line, _)| line).map_err(|error| error.to_string())
}

/// A client that speaks the page's messages.
pub struct Page {
    pub line: Line,
}

impl Page {
    pub async fn open(tool: &Tool) -> Self {
        let origin = format!("http://{}", tool.host());
        Self { line: try_connect(tool, tool.token(), Some(&origin)).await.unwrap() }
    }

    pub async fn say(&mut self, text: &str) {
        self.line.send(Message::text(text)).await.unwrap();
    }

    pub async fn ask(&mut self, ask: Value) {
        self.say(&ask.to_string()).await;
    }

    /// The next answer of a kind; others are passed over.
    pub async fn receive(&mut self, kind: &str) -> Value {
        let wait = async {
            loop {
                let message = self.line.next().await.expect("the line is open").unwrap();
                let Message::Text(text) = message else { continue };
                let received: Value = serde_json::from_str(&text).unwrap();
                if received["message"] == kind {
                    return received;
                }
            }
        };
        tokio::time::timeout(Duration::from_secs(30), wait).await.unwrap_or_else(|_| panic!("no {kind}"))
    }

    /// Frames of a sixtieth of a second, in which nothing but this was said at first.
    pub async fn play(&mut self, frames: usize, said: Value) -> Value {
        let mut last = Value::Null;
        for frame in 0..frames {
            let events = if frame == 0 { said.clone() } else { json!([]) };
            self.ask(json!({ "request": "frame", "ms": 1000.0 / 60.0, "events": events })).await;
            last = self.receive("frame").await;
            // No faster than a flood is.
            tokio::time::sleep(Duration::from_millis(2)).await;
        }
        last
    }
}
