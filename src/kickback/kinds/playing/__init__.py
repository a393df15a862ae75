"""What models of all kinds are played with: drills, floors, parameters, time steps."""
