"""The root of everything this program refuses in words."""


class AshenError(Exception):
    """Anything the program can explain to its user in one sentence."""


class ProjectError(AshenError, ValueError):
    """A project that does not make sense as data: the sentence names the place."""


class PathError(AshenError, KeyError):
    """A path that leads to nothing, or a value that its place refuses."""

    def __str__(self) -> str:
        """Return the sentence itself (KeyError would show it quoted)."""
        return str(self.args[0]) if self.args else ""


class AssemblyError(AshenError, ValueError):
    """A device that cannot exist or cannot be computed as it stands.

    Parameters
    ----------
    text : one sentence that says what and where.
    about : ids of the bodies, joints or fasteners concerned.
    """

    def __init__(self, text: str, about: tuple[str, ...] = ()) -> None:
        super().__init__(text)
        self.about = about


class UnsupportedError(AssemblyError):
    """Something the schema can say but the physics cannot compute yet."""


class Cancelled(Exception):  # noqa: N818 - not an error: somebody asked for it
    """The work was called off."""
