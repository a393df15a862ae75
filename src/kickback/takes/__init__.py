"""What a take is: channels, header, the take itself and its time base."""
