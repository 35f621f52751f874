"""One paper from one template: HTML that holds all it needs, and the same as PDF.

Templates are run in a sandbox and everything a project says is escaped, so that a user's own template can do no harm and a name
cannot be markup.
"""

from __future__ import annotations

import base64
import gc
import traceback
import warnings
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import cache
from importlib import resources
from typing import Any, Literal

from jinja2 import FunctionLoader, StrictUndefined, TemplateError, TemplateSyntaxError
from jinja2.sandbox import SandboxedEnvironment

from ashen_bridge.model.errors import AshenError

Size = Literal["A4", "Letter"]
_FONTS = (("Lato", 400, "Lato-Regular.ttf"), ("Lato", 700, "Lato-Bold.ttf"), ("Ashen Marks", 400, "Ashen-Marks.ttf"))
_SCHEME = "shipped"
_LIBRARIES = "libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"


class PaperError(AshenError, ValueError):
    """A paper that cannot be made, in one sentence."""


def html(template: str, values: Mapping[str, Any], size: Size = "A4", inside: bool = True, own: str | None = None) -> str:
    """Return a template filled in, style and fonts inside; for `pdf`, which brings the fonts itself, they may be left out.

    `own` is the text of a user's own template, which takes the place of the one that ships under that name.

    Raises
    ------
    PaperError
        Where the template asks for what it is not given, or is none.
    """
    environment = SandboxedEnvironment(
        loader=FunctionLoader(_shipped), autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    try:
        made = environment.get_template(template) if own is None else environment.from_string(own)
        return made.render(**values, size=size, style=_style(inside))
    except TemplateSyntaxError as error:
        raise PaperError(f"The template has an error in line {error.lineno}: {error.message}.") from error
    except (TemplateError, ArithmeticError, LookupError, TypeError, ValueError, AttributeError) as error:
        line = _line_of(error)
        raise PaperError(f"The template '{template}' cannot be filled in{line}: {error}.") from error


def _line_of(error: BaseException) -> str:
    """Return in which line of a template something went wrong, in words."""
    at = [frame.lineno for frame in traceback.extract_tb(error.__traceback__) if frame.filename.startswith("<")]
    return f", line {at[-1]}" if at else ""


def pdf(page: str) -> bytes:
    """Return a page as PDF. Nothing outside it is fetched: what it names by an address is left out.

    Raises
    ------
    PaperError
        Where the system's text libraries are missing, with the command that installs them.
    """
    try:
        with warnings.catch_warnings():
            # Older systems lack one of its text libraries, which it can do without.
            warnings.simplefilter("ignore", DeprecationWarning)
            from weasyprint import HTML
            from weasyprint.urls import URLFetcher, URLFetcherResponse
    except OSError as error:
        raise PaperError(
            f"Printing needs text libraries that are missing here. Install them with: sudo apt-get install {_LIBRARIES}"
        ) from error

    class Fonts(URLFetcher):  # type: ignore[misc]
        """Brings the fonts that ship with the program, and what a page holds itself; nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            scheme, _, name = url.partition(":")
            if scheme == _SCHEME and name in {font for _, _, font in _FONTS}:
                return URLFetcherResponse(url, _font(name), {"Content-Type": "font/ttf"})
            return super().fetch(url, headers)

    with _without_garbage_searches():
        made: bytes = HTML(string=page, url_fetcher=Fonts(allowed_protocols=("data",))).write_pdf()
    return made


@contextmanager
def _without_garbage_searches() -> Iterator[None]:
    """Laying pages out makes millions of objects that all stay; searching them for garbage is a fifth of the time."""
    on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if on:
            gc.enable()


def _font(name: str) -> bytes:
    return resources.files("ashen_bridge.fonts").joinpath(name).read_bytes()


def _shipped(name: str) -> str | None:
    """Return a template that ships, or nothing: a user's own template names what it includes, and may not reach other files."""
    places = resources.files(__package__).joinpath("templates").iterdir()
    return _template(name) if name in {place.name for place in places} else None


def _template(name: str) -> str:
    return resources.files(__package__).joinpath("templates", name).read_text(encoding="utf-8")


@cache
def _style(inside: bool) -> str:
    faces = []
    for family, weight, name in _FONTS:
        content = f"data:font/ttf;base64,{base64.b64encode(_font(name)).decode()}" if inside else f"{_SCHEME}:{name}"
        source = f"url({content})"
        faces.append(f'@font-face {{ font-family: "{family}"; font-weight: {weight}; src: {source}; }}')
    return "\n".join((*faces, _template("paper.css")))
