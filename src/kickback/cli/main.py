"""The ``kickback`` group: commands by name, loaded when called, and errors as sentences."""

import importlib
import io
import os
import sys
import warnings

import click

from kickback.cli.output import complain, say_aside, tell
from kickback.errors import KickbackError, nearest

__all__ = ["COMMANDS", "main"]

COMMANDS = {
    "demo": "Write the Lantern Row demo project and walk through it.",
    "new": "Start a project: kickback.toml, folders and a commented example.",
    "record": "Save takes from a running game's frames.",
    "inspect": "Say what is in a take, and what to know before building on it.",
    "measure": "Measure how takes feel: top speed, stop distance, apex height, ….",
    "metrics": "List the metrics, or explain one.",
    "law": "Read the update rule off a take: what the code does in each frame.",
    "framerate": "Find what depends on the frame rate, why, and what to write instead.",
    "retime": "Bring constants from one frame rate to another, or to the second.",
    "fit": "Read a game's movement off takes as parameters of the built-in model.",
    "solve": "Find the parameters with which metrics are what you wish.",
    "reach": "Say which gaps and steps can be cleared, and how hard each is.",
    "sweep": "Say which parameter moves which metric, and what can be had together.",
    "compare": "Hold one parameter set against another.",
    "accept": "Keep a baseline that builds are held against.",
    "gate": "Say whether a build may pass: one verdict, one exit status.",
    "plot": "Draw takes: motion over time with phases, and the arcs of jumps.",
    "simulate": "Make takes from a built-in movement model.",
    "senders": "List what a game sends its frames with, or copy it beside the game.",
    "convert": "Write takes in another encoding, also from foreign logs.",
}


class _Lazy(click.Group):
    """A group that imports a command's module only when the command is called."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the commands in the order of the work."""
        del ctx
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Load a command."""
        del ctx
        if cmd_name not in COMMANDS:
            return None
        found: click.Command = importlib.import_module(f"kickback.cli.{cmd_name}_command").command
        return found

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """Find a command; an unknown one is an error that names the nearest."""
        if args and args[0] not in COMMANDS and not args[0].startswith("-"):
            raise click.UsageError(f"no command '{args[0]}'{nearest(args[0], COMMANDS)}", ctx)
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """List the commands from the table, without loading them."""
        del ctx
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))


@click.group(
    cls=_Lazy,
    context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100},
    epilog="Exit status: 0 all is well; 1 something regressed, was lost, breaks or drifts beyond"
    " its budget; 2 a wrong call or input; 3 a fault of the program itself.",
)
@click.version_option(package_name="kickback", message="%(prog)s %(version)s")
def group() -> None:
    """Measure how a game feels to move in, from per-frame motion traces.

    Start with 'kickback demo', or 'kickback measure' and a log of your own.
    """


def main(argv: list[str] | None = None) -> None:
    """Run the program: results go to standard output, errors become one sentence."""
    _prepare()
    try:
        status: object = group.main(args=argv, prog_name="kickback", standalone_mode=False)
    except click.exceptions.Exit as stop:
        status = stop.exit_code
    except (click.Abort, KeyboardInterrupt):
        status = 130
    except (click.ClickException, KickbackError) as error:
        status = _said(error)
    except BrokenPipeError:
        # the reader has left: nothing more to say, and Python must not complain at exit
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        status = 0
    except OSError as error:
        where = f"{error.filename}: " if error.filename else ""
        complain(f"{where}{(error.strerror or str(error)).lower()}")
        status = 2
    except Exception as error:
        complain(_unforeseen(error))
        status = 3
    sys.exit(status if isinstance(status, int) else 0)


def _prepare() -> None:
    """See that nothing but our own sentences is printed, and any terminal takes them."""
    if not sys.warnoptions:
        warnings.simplefilter("ignore")  # what a library thinks of a number
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # a terminal without ± must not end the run


def _unforeseen(error: Exception) -> str:
    """Return the sentence on a fault of the program itself, of which the details are kept."""
    from kickback import __version__
    from kickback.files.faults import kept_report

    what = f"a fault of this program ({type(error).__name__})"
    where = kept_report(error, __version__)
    if not where:
        return f"{what}; please report it, with the call and the files that it was given"
    return f"{what}; please report it with {where}, which holds the details"


def _said(error: click.ClickException | KickbackError) -> int:
    """Print what is wrong with a call or an input, and return the exit status."""
    if isinstance(error, KickbackError):
        complain(str(error))
    elif isinstance(error, click.exceptions.NoArgsIsHelpError):
        tell(error.format_message())
    else:
        context = getattr(error, "ctx", None)
        name = context.command_path if context is not None else "kickback"
        text = _lower(error.format_message())
        say_aside(f"{name}: {text} ('{name} --help' tells more)")
    return 2


def _lower(message: str) -> str:
    """Return a message that goes on after a colon, on one line and without a full stop."""
    text = " ".join(message.split()).rstrip(".")
    return text[:1].lower() + text[1:]
