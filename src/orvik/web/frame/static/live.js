// The live connection: one request in flight at a time, answers by number, notices by listener.

import { counted } from "./request_counter.js";

export class Live {
  constructor(slug) {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    this.url = `${scheme}://${location.host}/p/${slug}/live`;
    this.listeners = { state: [], changed: [], ink: [], lost: [], found: [], findings: [], labels: [] };
    this.queue = [];
    this.pending = null;
    this.number = 0;
    // The revision that the page shows, to know after a break of the connection whether it has missed anything.
    this.revision = Number(document.getElementById("save-state")?.dataset.revision ?? -1);
    this.socket = this.opened();
  }

  on(name, listener) {
    this.listeners[name].push(listener);
  }

  tell(name, value) {
    for (const listener of this.listeners[name]) listener(value);
  }

  connect() {
    this.socket = this.opened();
  }

  opened() {
    const socket = new WebSocket(this.url);
    socket.binaryType = "arraybuffer";
    socket.onopen = () => {
      this.tell("found");
      this.send();
    };
    socket.onmessage = (event) => this.take(event.data);
    socket.onclose = () => {
      const waiting = [this.pending, ...this.queue].filter(Boolean);
      this.pending = null;
      this.queue = [];
      for (const request of waiting) request.fail(new Error("Not saved: the connection to Orvik is lost."));
      this.tell("lost");
      setTimeout(() => this.connect(), 1000);
    };
    return socket;
  }

  get idle() {
    return !this.pending && !this.queue.length && this.socket.readyState === WebSocket.OPEN;
  }

  // The answer to a message; a refusal is an answer with `refused`.
  ask(message) {
    return counted(
      new Promise((done, fail) => {
        this.queue.push({ message: { ...message, n: ++this.number }, done, fail });
        this.send();
      }),
    );
  }

  send() {
    if (this.pending || !this.queue.length || this.socket.readyState !== WebSocket.OPEN) return;
    const next = this.queue.shift();
    this.pending = next;
    this.socket.send(JSON.stringify(next.message));
  }

  take(data) {
    if (typeof data !== "string") {
      this.tell("ink", data);
      return;
    }
    const words = JSON.parse(data);
    if (this.pending && words.n === this.pending.message.n) {
      const { done } = this.pending;
      this.pending = null;
      done(words);
      this.send();
    } else if (words.do === "findings") {
      this.tell("findings", words);
    } else if (words.do === "labels") {
      // Their ink has come already.
      if (words.failed) this.tell("labels", words);
    } else if (words.do === "state" || words.do === "changed") {
      const missed = words.do === "state" && words.revision !== this.revision;
      this.revision = words.revision;
      this.tell("state", words);
      if (words.do === "changed") this.tell("changed", words);
      else if (missed) this.tell("changed", { ...words, reload: true });
    }
  }
}
