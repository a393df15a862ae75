"""Bodies of physics libraries that move over a plane: from above, and in three dimensions."""

import numpy as np
import pybullet
import pymunk

HALF = 0.5


class Bullet:
    """A box on a floor in Bullet, z up."""

    names = ("x", "y", "vx", "vy", "z", "vz")

    def __init__(self, h):
        self.world = pybullet.connect(pybullet.DIRECT)
        pybullet.setGravity(0, 0, -30, physicsClientId=self.world)
        pybullet.setTimeStep(h, physicsClientId=self.world)
        floor = pybullet.createCollisionShape(pybullet.GEOM_PLANE, physicsClientId=self.world)
        pybullet.createMultiBody(0, floor, physicsClientId=self.world)
        box = pybullet.createCollisionShape(
            pybullet.GEOM_BOX, halfExtents=[HALF] * 3, physicsClientId=self.world
        )
        self.body = pybullet.createMultiBody(
            1.0, box, basePosition=[0, 0, HALF], physicsClientId=self.world
        )
        pybullet.changeDynamics(
            self.body, -1, lateralFriction=0, linearDamping=0, angularDamping=0,
            localInertiaDiagonal=[0, 0, 0], physicsClientId=self.world,
        )  # fmt: skip

    def speed(self):
        (x, y, _), _ = pybullet.getBaseVelocity(self.body, physicsClientId=self.world)
        return complex(x, y)

    def step(self, v):
        (_, _, up), _ = pybullet.getBaseVelocity(self.body, physicsClientId=self.world)
        pybullet.resetBaseVelocity(
            self.body, [v.real, v.imag, up], [0, 0, 0], physicsClientId=self.world
        )
        pybullet.stepSimulation(physicsClientId=self.world)
        (x, y, z), _ = pybullet.getBasePositionAndOrientation(self.body, physicsClientId=self.world)
        (vx, vy, vz), _ = pybullet.getBaseVelocity(self.body, physicsClientId=self.world)
        return x, y, vx, vy, z - HALF, vz

    def end(self):
        pybullet.disconnect(self.world)


class Above:
    """A disc in Pymunk, seen from above."""

    names = ("x", "y", "vx", "vy")

    def __init__(self, h):
        self.h, self.space = h, pymunk.Space()
        self.body = pymunk.Body(1.0, float("inf"))
        self.space.add(self.body, pymunk.Circle(self.body, HALF))

    def speed(self):
        return complex(*self.body.velocity)

    def step(self, v):
        self.body.velocity = (v.real, v.imag)
        self.space.step(self.h)
        return (*self.body.position, *self.body.velocity)

    def end(self):
        pass


def plane_body(library, rate, stick_at, seconds=11.5, top=8.0, accel=60.0, slow=50.0,
               limit="length"):  # fmt: skip
    """Return columns of a run whose velocity goes toward the pressed one by its length."""
    body, h, rows = {"bullet": Bullet, "pymunk": Above}[library](1 / rate), 1 / rate, []
    for _ in range(rate // 2):
        body.step(0j)
    for k in range(round(seconds * rate)):
        stick = complex(*stick_at(k * h))
        wanted = stick / max(1.0, abs(stick)) if limit == "length" else stick
        gap, most = wanted * top - body.speed(), (accel if stick else slow) * h
        v = wanted * top if abs(gap) <= most else body.speed() + gap * most / abs(gap)
        rows.append(((k + 1) * h, h, *body.step(v), 1.0, stick.real, stick.imag))
    body.end()
    names = ("t", "dt", *body.names, "touch_ground", "in_move_x", "in_move_y")
    return {n: np.array(c) for n, c in zip(names, zip(*rows, strict=True), strict=True)}


def sled_in_pymunk(*, engine, damping, grip, yaw, fps=60, length=22):
    """Return columns of a sled in Pymunk, from above: a force along it, and a grip of its own.

    The library keeps ``damping`` of every speed in a second; grip is a factor on the sideways one.
    """
    space = pymunk.Space()
    space.damping = damping
    body = pymunk.Body(2.0, 10.0)
    space.add(body, pymunk.Circle(body, 0.5))
    h, rows = 1 / fps, []
    for n in range(length * fps):
        t = n * h
        gas = 1.0 if 0.5 <= t < 7 or 13 <= t < 18 else 0.0
        wheel = 1.0 if 15 <= t < 16.5 else 0.0
        body.angle += np.radians(yaw) * wheel * h
        body.angular_velocity = 0.0
        forward = body.rotation_vector
        aside = forward.perpendicular()
        slide = body.velocity.dot(aside)
        body.velocity -= aside * slide * (1 - np.exp(-grip * h))
        body.apply_force_at_world_point(forward * engine * 2.0 * gas, body.position)
        space.step(h)
        rows.append((t + h, h, *body.position, *body.velocity, np.degrees(body.angle), gas, wheel))
    names = ("t", "dt", "x", "y", "vx", "vy", "heading", "in_throttle", "in_steer")
    return dict(zip(names, np.array(rows).T, strict=True))


def thrown_in_pybullet(*, speed, elevation, gravity, damping, fps=60, length=3.0):
    """Return columns of a ball thrown in Bullet, z up, with the library's own linear damping."""
    world = pybullet.connect(pybullet.DIRECT)
    pybullet.setGravity(0, 0, -gravity, physicsClientId=world)
    pybullet.setTimeStep(1 / fps, physicsClientId=world)
    ball = pybullet.createCollisionShape(pybullet.GEOM_SPHERE, radius=0.1, physicsClientId=world)
    body = pybullet.createMultiBody(1.0, ball, basePosition=[0, 0, 2], physicsClientId=world)
    pybullet.changeDynamics(
        body, -1, linearDamping=damping, angularDamping=0, physicsClientId=world
    )
    rows = []
    for n in range(int(length * fps)):
        if n == 12:
            angle = np.radians(elevation)
            start = [speed * np.cos(angle), 0, speed * np.sin(angle)]
            pybullet.resetBaseVelocity(body, start, physicsClientId=world)
        if n >= 12:
            pybullet.stepSimulation(physicsClientId=world)
        place, _ = pybullet.getBasePositionAndOrientation(body, physicsClientId=world)
        v, _ = pybullet.getBaseVelocity(body, physicsClientId=world)
        rows.append(((n + 1) / fps, 1 / fps, *place, *v))
    pybullet.disconnect(world)
    names = ("t", "dt", "x", "y", "z", "vx", "vy", "vz")
    return dict(zip(names, np.array(rows).T, strict=True))
