-- Sends a game's frames to `kickback record`, from Lua 5.1 and newer.
--
-- Lua has no sockets of its own: frames go to a file or pipe (io.stdout), or through a
-- function of the host that takes text and returns how many bytes of it went (true: all;
-- nil: none). What does not go yet is kept; when `room` bytes wait, frames are dropped,
-- counted, and the count is sent. No call waits for longer than that function does.
local Sender = {}
Sender.__index = Sender

local MARKS = { ['"'] = '\\"', ["\\"] = "\\\\", ["\n"] = "\\n", ["\r"] = "\\r", ["\t"] = "\\t" }

local function json(value)
  local kind = type(value)
  if kind == "number" then
    if value ~= value or value == math.huge or value == -math.huge then return nil end
    return (string.format("%.17g", value):gsub(",", "."))
  elseif kind == "boolean" then
    return tostring(value)
  elseif kind == "string" then
    return '"' .. value:gsub('[%c"\\]', function(mark)
      return MARKS[mark] or string.format("\\u%04x", mark:byte())
    end) .. '"'
  elseif kind == "table" then
    local parts = {}
    if #value > 0 then
      for _, item in ipairs(value) do parts[#parts + 1] = json(item) or "null" end
      return "[" .. table.concat(parts, ",") .. "]"
    end
    for key, item in pairs(value) do
      parts[#parts + 1] = json(tostring(key)) .. ":" .. (json(item) or "null")
    end
    return "{" .. table.concat(parts, ",") .. "}"
  end
  return "null"
end

local function through_file(file)
  local count = 0
  return function(text)
    file:write(text)
    count = count + 1
    if count % 15 == 0 or text:find('{"end"', 1, true) then file:flush() end
    return true
  end
end

-- to: a file such as io.stdout, or a send function. columns: {"t", "x", "y", "in_jump"}.
-- header: {subject = "lamplighter", frame_rate = 60}. room: bytes that may wait.
function Sender.new(to, columns, header, room)
  return setmetatable({
    send = type(to) == "function" and to or through_file(to),
    columns = columns,
    header = header or {},
    room = room or 1048576,
    waiting = "",
    sent = 0,
    dropped = 0,
    reported = 0,
    begun = false,
  }, Sender)
end

function Sender:flush()
  if self.waiting == "" then return end
  local taken = self.send(self.waiting)
  if taken == true then
    self.waiting = ""
  elseif type(taken) == "number" then
    self.waiting = self.waiting:sub(taken + 1)
  end
end

function Sender:line(text)
  if #self.waiting + #text + 1 > self.room then return false end
  self.waiting = self.waiting .. text .. "\n"
  return true
end

-- Record one frame, its values in the order of the columns; false where it was dropped.
function Sender:frame(...)
  local parts = {}
  for index = 1, #self.columns do
    parts[index] = json((select(index, ...)))
    if parts[index] == nil then
      self.dropped = self.dropped + 1
      return false
    end
  end
  if not self.begun then
    local header = { kickback = 1, columns = self.columns }
    for key, value in pairs(self.header) do header[key] = value end
    self.begun = self:line(json(header))
  end
  local taken = self.begun and self:line("[" .. table.concat(parts, ",") .. "]")
  if taken then self.sent = self.sent + 1 else self.dropped = self.dropped + 1 end
  self:flush()
  return taken
end

-- End the take; the next frame begins another.
function Sender:close()
  if self.begun then
    local dropped = self.dropped - self.reported
    if self:line(string.format('{"end":true,"sent":%d,"dropped":%d}', self.sent, dropped)) then
      self.reported = self.dropped
    end
    self.begun, self.sent = false, 0
  end
  self:flush()
end

return Sender
