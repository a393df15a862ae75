-- lua example.lua | kickback record -
local Sender = require("kickback_sender")
local take = Sender.new(io.stdout, { "t", "x", "y", "vx" }, { subject = "lamplighter" })
local x, v = 0, 0
for frame = 1, 180 do
  v = math.min(8, v + 40 / 60)
  x = x + v / 60
  take:frame(frame / 60, x, 0, v)
end
take:close()
