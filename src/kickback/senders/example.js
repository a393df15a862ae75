const { KickbackSender } = require("./kickback_sender.js");
const take = new KickbackSender(process.argv[2] || "tcp://127.0.0.1:7425", ["t", "x", "y", "vx"], { subject: "lamplighter" });
let frame = 0, x = 0, v = 0;
const loop = setInterval(() => {
  frame += 1;
  v = Math.min(8, v + 40 / 60);
  x += v / 60;
  take.frame(frame / 60, x, 0, v);
  if (frame === 180) { take.close(); clearInterval(loop); }
}, 1000 / 60);
