"""Takes from physics libraries that nobody here wrote, with a controller of a few lines.

A box of half a unit on a floor, moved as games move one: its sideways speed goes toward a
goal at a constant acceleration, a jump sets its upward speed; the library does the rest.
"""

import warnings
from itertools import pairwise

import numpy as np
import pymunk

with warnings.catch_warnings():  # its wrapper's types lack a module name; as an error it aborts
    warnings.simplefilter("ignore")
    import Box2D

from .recurrence import during

HALF = 0.5

NAMES = ("t", "dt", "x", "y", "vx", "vy", "touch_ground", "in_move_x", "in_jump")


class Pymunk:
    """The box in Pymunk."""

    def __init__(self, gravity, floors):
        self.space = pymunk.Space()
        self.space.gravity = (0, -gravity)
        self.body = pymunk.Body(1.0, float("inf"))
        self.body.position = (0, HALF)
        box = pymunk.Poly.create_box(self.body, (2 * HALF, 2 * HALF))
        box.friction = 0.0
        self.space.add(self.body, box)
        for left, right, height in floors:
            ground = pymunk.Poly(
                self.space.static_body,
                [(left, height - 3), (right, height - 3), (right, height), (left, height)],
            )
            ground.friction = 0.0
            self.space.add(ground)

    def step(self, h):
        self.space.step(h)

    def place(self):
        return tuple(self.body.position)

    @property
    def velocity(self):
        return tuple(self.body.velocity)

    @velocity.setter
    def velocity(self, value):
        self.body.velocity = value

    def grounded(self):
        normals = []
        self.body.each_arbiter(lambda arbiter: normals.append(arbiter.contact_point_set.normal.y))
        return any(normal < -0.7 for normal in normals)


class Box2d:
    """The box in Box2D."""

    def __init__(self, gravity, floors):
        self.world = Box2D.b2World(gravity=(0, -gravity), doSleep=False)
        self.body = self.world.CreateDynamicBody(position=(0, HALF), fixedRotation=True)
        self.body.CreatePolygonFixture(box=(HALF, HALF), density=1.0, friction=0.0)
        for left, right, height in floors:
            middle, wide = (left + right) / 2, (right - left) / 2
            self.world.CreateStaticBody(
                position=(middle, height - 1.5),
                shapes=Box2D.b2PolygonShape(box=(wide, 1.5)),
            )

    def step(self, h):
        self.world.Step(h, 8, 3)

    def place(self):
        return tuple(self.body.position)

    @property
    def velocity(self):
        return tuple(self.body.linearVelocity)

    @velocity.setter
    def velocity(self, value):
        self.body.linearVelocity = value

    def grounded(self):
        y = self.body.position[1]
        return any(e.contact.touching and e.other.position[1] < y for e in self.body.contacts)


def random_world(rng):
    """Return columns of ten seconds in a random world of steps and walls, and what made them."""
    rate = int(rng.choice([20, 30, 50, 60, 90, 144, 240]))
    low = {"top": 2, "accel": 10, "slow": 5, "v0": 5, "g": 9}
    high = {"top": 14, "accel": 120, "slow": 120, "v0": 18, "g": 70}
    feel = {name: float(rng.uniform(low[name], high[name])) for name in low}
    moves, jumps, time = [], [], 0.5
    while time < 9:
        stop = time + rng.uniform(0.3, 1.5)
        moves.append((time, stop, int(rng.choice([1, -1, 1]))))
        time = stop + rng.choice([0, rng.uniform(0.1, 1)])
    time = 1.0
    while time < 9:
        stop = time + rng.uniform(0.05, 0.6)
        jumps.append((time, stop, 1))
        time = stop + rng.uniform(0.3, 2)
    edges = (-100, -6, 3, 8, 14, 200)
    heights = np.concatenate(([rng.uniform(-6, 6), 0, 0], np.cumsum(rng.uniform(-3, 3, 2))))
    floors = [(*edge, float(h)) for edge, h in zip(pairwise(edges), heights, strict=True)]
    library = str(rng.choice(list(LIBRARIES)))
    chosen = FLOOR if rng.random() < 0.4 else floors
    move, jump = during(*moves), during(*jumps)
    columns = physics_take(library, rate, move, jump, 10.0, floors=chosen, **feel)
    return columns, f"{library} at {rate}/s, {feel}, {chosen}"


LIBRARIES = {"pymunk": Pymunk, "box2d": Box2d}
FLOOR = ((-100.0, 200.0, 0.0),)


def physics_take(library, rate, move_at, jump_at, seconds, *, top, accel, slow, v0, g,
                 floors=FLOOR):  # fmt: skip
    """Return columns of a run; ``y`` is that of the box's feet."""
    world = LIBRARIES[library](g, floors)
    h, held, rows = 1.0 / rate, False, []
    for _ in range(rate):  # a second to come to rest
        world.step(h)
    for k in range(round(seconds * rate)):
        move, jump = move_at(k * h), jump_at(k * h)
        vx, vy = world.velocity
        goal, change = move * top, (accel if move else slow) * h
        vx = min(vx + change, goal) if vx < goal else max(vx - change, goal)
        if jump and not held and world.grounded():
            vy = v0
        held = bool(jump)
        world.velocity = (vx, vy)
        world.step(h)
        (x, y), (vx, vy) = world.place(), world.velocity
        touch = float(world.grounded())
        rows.append(((k + 1) * h, h, x, y - HALF, vx, vy, touch, float(move), float(jump)))
    return {
        name: np.array(column) for name, column in zip(NAMES, zip(*rows, strict=True), strict=True)
    }
