// The line to the tool: messages there, answers back.

/** Opens the line. `hear` gets each answer; `ended` is called when the tool has gone. */
export function openLink(hear, ended) {
  const token = new URLSearchParams(location.search).get("token") ?? "";
  const socket = new WebSocket(`ws://${location.host}/session?token=${encodeURIComponent(token)}`);
  socket.onmessage = (message) => hear(JSON.parse(message.data));
  socket.onclose = ended;
  return {
    ask(ask, more = {}) {
      if (socket.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ ask, ...more }));
    },
    get isOpen() { return socket.readyState === WebSocket.OPEN; },
  };
}
