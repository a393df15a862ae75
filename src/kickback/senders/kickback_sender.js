// Sends a game's frames to `kickback record`, from a browser (ws://) or from Node (tcp://).
//
// This one file needs nothing else. In a page: <script src="kickback_sender.js"></script>;
// in Node: const { KickbackSender } = require("./kickback_sender.js").
//
// frame() never waits: what the connection does not take yet is kept, and when `room`
// frames are waiting, further ones are dropped, counted, and the count is sent.
(function (root) {
  "use strict";

  const MOST_UNDER_WAY = 1 << 20; // bytes that the connection may hold before frames wait here
  const AGAIN = 1000; // ms between attempts to connect

  class KickbackSender {
    // address: "ws://127.0.0.1:7426", or in Node also "tcp://127.0.0.1:7425".
    // columns: names of a frame's values, such as ["t", "x", "y", "in_jump"].
    // header: the take's header, such as { subject: "lamplighter", frame_rate: 60 }.
    // options: token, room (frames), onDrill(drill): called with the drill to be played.
    constructor(address, columns, header = {}, options = {}) {
      this.dropped = 0;
      this.problem = "";
      this._address = address;
      this._columns = columns;
      this._header = header;
      this._options = options;
      this._room = options.room || 20000;
      this._lines = [];
      this._sent = 0;
      this._reported = 0;
      this._begun = false;
      this._closing = false;
      this._next = 0;
      this._way = null;
      this._connect();
      this._timer = setInterval(() => this._flush(), 15);
    }

    // Record one frame, its values in the order of the columns; false where it was dropped.
    frame(...values) {
      for (const value of values) {
        if (typeof value === "number" && !Number.isFinite(value)) {
          this.problem = "a frame with a number that is not finite";
          this.dropped += 1;
          return false;
        }
      }
      if (this._lines.length >= this._room) {
        this.dropped += 1;
        return false;
      }
      if (!this._begun) this._opening();
      this._lines.push(JSON.stringify(values));
      this._sent += 1;
      return true;
    }

    // Begin the next take; header values change.
    begin(header = {}) {
      this._header = Object.assign({}, this._header, header);
      this._opening();
    }

    // End the take; the next frame begins another.
    end() {
      if (this._begun) {
        const dropped = this.dropped - this._reported;
        this._lines.push(JSON.stringify({ end: true, sent: this._sent, dropped }));
        this._reported = this.dropped;
      }
      this._begun = false;
    }

    // End the take, send what is waiting, and leave.
    close() {
      this.end();
      this._closing = true;
      this._flush();
    }

    _opening() {
      this._lines.push(this._headerLine());
      this._sent = 0;
      this._begun = true;
    }

    _headerLine() {
      const header = Object.assign({ kickback: 1 }, this._header, { columns: this._columns });
      if (this._options.token) header.token = this._options.token;
      if (this._options.onDrill) header.accepts = ["drill"];
      return JSON.stringify(header);
    }

    _connect() {
      this._next = Date.now() + AGAIN;
      const heard = (text) => this._heard(text);
      const lost = (why) => {
        if (why) this.problem = String(why);
        if (this._way && this._begun) { // what waits goes on as a take of its own
          this._lines.unshift(this._headerLine());
          this._sent = this._lines.length - 1;
        }
        this._way = null;
      };
      try {
        this._way = this._address.startsWith("tcp://")
          ? overTcp(this._address, heard, lost)
          : overWebSocket(this._address, heard, lost);
      } catch (error) {
        lost(error.message);
      }
    }

    _flush() {
      if (!this._way && Date.now() >= this._next) {
        if (this._closing) return this._stop();
        this._connect();
      }
      if (this._way && this._way.ready() && this._lines.length) {
        if (this._way.waiting() < MOST_UNDER_WAY) {
          this._way.send(this._lines.join("\n") + "\n");
          this._lines = [];
        }
      }
      if (this._closing && !this._lines.length) this._stop();
    }

    _stop() {
      clearInterval(this._timer);
      if (this._way) this._way.close();
      this._way = null;
    }

    _heard(text) {
      for (const line of text.split("\n").filter(Boolean)) {
        let answer;
        try {
          answer = JSON.parse(line);
        } catch {
          continue;
        }
        if (answer.error) this.problem = answer.error;
        if (answer.drill !== undefined && this._options.onDrill) this._options.onDrill(answer.drill);
      }
    }
  }

  function overWebSocket(address, heard, lost) {
    if (typeof WebSocket === "undefined") throw new Error("no WebSocket here; use tcp://");
    const socket = new WebSocket(address);
    socket.onmessage = (event) => heard(String(event.data));
    socket.onerror = () => lost("no recorder answers");
    socket.onclose = () => lost("");
    return {
      ready: () => socket.readyState === 1,
      waiting: () => socket.bufferedAmount,
      send: (text) => socket.send(text),
      close: () => socket.close(),
    };
  }

  function overTcp(address, heard, lost) {
    const parts = new URL(address);
    const socket = require("net").connect(Number(parts.port), parts.hostname.replace(/[[\]]/g, ""));
    let open = false;
    socket.setNoDelay(true);
    socket.setEncoding("utf8");
    socket.on("connect", () => { open = true; });
    socket.on("data", heard);
    socket.on("error", (error) => lost(error.message));
    socket.on("close", () => { open = false; lost(""); });
    return {
      ready: () => open,
      waiting: () => socket.writableLength,
      send: (text) => socket.write(text),
      close: () => socket.end(),
    };
  }

  root.KickbackSender = KickbackSender;
  if (typeof module !== "undefined" && module.exports) module.exports = { KickbackSender };
})(typeof globalThis !== "undefined" ? globalThis : this);
