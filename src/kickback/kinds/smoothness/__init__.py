"""How even a motion is as it is shown, frame by frame."""
