import time

from kickback_sender import Recorder

with Recorder("tcp://127.0.0.1:7425", ["t", "x", "y", "vx"], subject="lamplighter") as take:
    x = v = 0.0
    for frame in range(1, 181):
        v = min(8.0, v + 40 / 60)
        x += v / 60
        take.frame(frame / 60, x, 0.0, v)
        time.sleep(1 / 60)
