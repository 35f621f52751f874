"""The root of everything this program refuses in words."""

from __future__ import annotations


class AshenError(Exception):
    """Anything the program can explain to its user in one sentence.

    `about` : ids of the bodies, joints, fasteners or limits concerned, as far as they are known. `place` : the path of the value
    that is refused, if it is one.
    """

    about: tuple[str, ...] = ()
    place: str = ""


class ProjectError(AshenError, ValueError):
    """A project that does not make sense as data: the sentence names the place."""


class RefusedError(ProjectError):
    """A value that its place refuses: the place, as a path from where the change was made, and what is wrong with it."""

    def __init__(self, place: str, text: str) -> None:
        super().__init__(place, text)
        self.place, self.text = place, text

    def within(self, path: str) -> RefusedError:
        """Return the same refusal as it is seen from further up."""
        return RefusedError(f"{path}.{self.place}".rstrip("."), self.text)

    def __str__(self) -> str:
        """Return the sentence."""
        if not self.place:
            return self.text if self.text.endswith(".") else f"The project: {self.text}."
        return f"{self.place}: {self.text}".rstrip(".") + "."


class PathError(AshenError, KeyError):
    """A path that leads to nothing."""

    def __init__(self, text: str, place: str = "") -> None:
        super().__init__(text)
        self.place = place

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
