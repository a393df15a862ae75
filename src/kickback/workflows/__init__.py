"""One use case a command: inputs in, one finished result out."""
