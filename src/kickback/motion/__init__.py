"""From a take to its motion: kinematics, contact, inputs, phases and events."""
