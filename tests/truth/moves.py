"""A loop with the moves that platform games have, in plain lines; walls, ledges and bounce pads."""

import numpy as np

NAMES = ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "touch_side", "in_move_x", "in_jump",
         "in_dash", "in_move_y")  # fmt: skip

USUAL = {
    "top": 8.0, "accel": 60.0, "slow": 50.0, "jump": 13.0, "g": 40.0, "g_fall": 40.0,
    "cut": None, "cut_to": None, "g_let_go": None, "hold": 0.0, "g_hold": 0.0, "terminal": None,
    "coyote": 0.0, "air": (), "wall_jump": None, "wall_away": 8.0, "slide": None,
    "dash": None, "dash_time": 0.15, "cooldown": 0.0, "bounce": 0.0, "ledge": None, "walls": (),
    "sink": 0.0, "air_accel": None, "ceiling": None, "squat": 0.0, "lag": 0.0, "fast": 1.0,
    "buffer": 0.0, "hang": 0.0, "stick": 0.0, "wall_lock": 0.0,
}  # fmt: skip


def moves(dt, move_at, jump_at, dash_at=lambda _: 0, fast_at=lambda _: 0, **own):
    """Return columns of a run. ``walls``: x of walls; ``ledge``: x beyond which the floor is 4 lower.

    ``cut``: factor on letting go; ``cut_to``: speed that the rise is set to; ``g_let_go``: gravity
    of a rise that is let go of; ``hold``: seconds of a held rise under ``g_hold``; ``air``: speeds
    of jumps in the air; ``bounce``: share of its speed that a landing gives back; ``sink``: how
    far a landing sinks in for some frames; ``air_accel``: acceleration in the air; ``ceiling``: its
    height; ``squat``: seconds before a takeoff; ``lag``: seconds after a landing without input;
    ``fast``: factor on the fall's gravity while ``fast_at``; ``buffer``: seconds that a press
    waits for the ground; ``hang``: seconds after a ledge without gravity; ``stick``: seconds that
    a wall holds a fall; ``wall_lock``: seconds after a jump off one in which no input is read.
    """
    p = {**USUAL, **own}
    x = y = vx = vy = time = since_ground = risen = 0.0
    ground, held, dashed, jumps, rising = True, False, -9.0, 0, False
    dash_held, side, sunk, rows = False, 0, 0, []
    squatting, landed, asked, off_ledge = None, -9.0, -9.0, False
    stuck, kicked = None, -9.0
    for h in dt:
        move, jump, dash = move_at(time), bool(jump_at(time)), bool(dash_at(time))
        goal = move * p["top"]
        rate = (p["accel"] if move else p["slow"]) * h
        if not ground and p["air_accel"] is not None:
            rate = (p["air_accel"] if move else 0.0) * h
        if time - kicked < p["wall_lock"] - 1e-9:
            rate = 0.0
        if ground and time - landed < p["lag"] - 1e-9:
            goal, rate = 0.0, p["slow"] * h
        vx = min(vx + rate, goal) if vx < goal else max(vx - rate, goal)
        if dash and not dash_held and p["dash"] and time - dashed >= p["cooldown"]:
            dashed = time
        dashing = p["dash"] is not None and time - dashed < p["dash_time"] - 1e-9
        if dashing:
            vx, vy = p["dash"] * (1 if move >= 0 else -1), 0.0
        pressed = jump and not held
        asked = time if pressed else asked
        if p["buffer"] and ground and not pressed:
            pressed = time - asked <= p["buffer"] and jumps == 0
        if p["squat"] and pressed and ground and squatting is None:
            squatting, pressed = time, False
        elif squatting is not None:
            pressed = time - squatting >= p["squat"] - 1e-9
            squatting = None if pressed else squatting
        thrown = None
        if pressed and (ground or (since_ground < p["coyote"] and jumps == 0)):
            thrown = p["jump"]
        elif pressed and side and p["wall_jump"]:
            thrown, vx, kicked = p["wall_jump"], -side * p["wall_away"], time
        elif pressed and not ground and max(jumps, 1) <= len(p["air"]):
            jumps = max(jumps, 1)  # walking off uses up the one from the ground
            thrown = p["air"][jumps - 1]
        if thrown is not None:
            vy, ground, rising, risen, dashed = thrown, False, True, 0.0, -9.0
            jumps, dashing = jumps + 1, False
        if held and not jump and vy > 0 and rising:
            if p["cut"] is not None:
                vy *= p["cut"]
            if p["cut_to"] is not None:
                vy = min(vy, p["cut_to"])
        if not jump:
            rising = False
        if not ground and not dashing:
            pull = p["g"] if vy > 0 else p["g_fall"] * (p["fast"] if fast_at(time) else 1.0)
            if off_ledge and since_ground < p["hang"] - 1e-9:
                pull = 0.0
            if vy > 0 and rising and risen < p["hold"] - 1e-9:
                pull, risen = p["g_hold"], risen + h
            elif vy > 0 and not rising and p["g_let_go"]:
                pull = p["g_let_go"]
            vy -= pull * h
            if p["terminal"]:
                vy = max(vy, -p["terminal"])
            if side and p["slide"] and vy < -p["slide"]:
                vy = -p["slide"]
            stuck = None if not side or vy > 0 else time if stuck is None else stuck
            if stuck is not None and time - stuck < p["stick"] - 1e-9:
                vy = 0.0
        held, dash_held = jump, dash
        x, old = x + vx * h, x
        side = 0
        for wall in p["walls"]:
            if (old < wall <= x + 1e-9 and vx > 0) or (x <= wall + 1e-9 < old + 2e-9 and vx < 0):
                side, x, vx = (1 if vx > 0 else -1), wall - (1e-6 if vx > 0 else -1e-6), 0.0
            elif abs(x - wall) < 1e-5 and move * (wall - x) > 0:
                side = 1 if move > 0 else -1
        floor = -4.0 if p["ledge"] is not None and x > p["ledge"] else 0.0
        if not ground:
            y += vy * h
            if p["ceiling"] is not None and y > p["ceiling"]:
                y, vy = p["ceiling"], 0.0
            since_ground += h
            if y <= floor and vy < 0:
                vy_in, y, ground = vy, floor, True
                landed = time + h
                vy = -vy_in * p["bounce"]
                sunk = 6 if p["sink"] else 0
                if vy < 1.0:
                    vy = 0.0
                else:
                    ground = False
        elif y > floor + 1e-9:
            ground, vy, off_ledge = False, 0.0, True
        if ground:
            since_ground, jumps, off_ledge = 0.0, 0, False
        shown = y - p["sink"] * (sunk > 0)
        sunk = max(0, sunk - 1)
        time += h
        rows.append((time, h, x, shown, vx, vy, float(ground), float(side != 0), float(move),
                     float(jump), float(dash), -float(fast_at(time - h))))  # fmt: skip
    return {n: np.array(c) for n, c in zip(NAMES, zip(*rows, strict=True), strict=True)}
