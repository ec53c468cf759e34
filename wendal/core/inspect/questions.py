"""The registry of questions: whatever asks something about a part as it stands, and changes nothing.

A question is one file: a request and an answer as Pydantic models, and a pure function under
`@question(Request, Answer)`. Windows, REST and the command line ask all of them in the same way.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationError

from ..errors import CommandRefused
from ..route import Evaluation, Part

__all__ = ["Answer", "Question", "Request", "ask", "asked", "question", "questions"]


class Request(BaseModel):
    """What is asked; `of` tells which question."""

    model_config = ConfigDict(extra="forbid")


class Answer(BaseModel):
    """What is answered; `of` tells to which question."""

    model_config = ConfigDict(extra="forbid")


Ask = Callable[[Part, Evaluation, Any], Answer]


@dataclass(frozen=True, slots=True)
class Question:
    """A question: its name, what it is asked with, what it answers."""

    name: str
    request: type[Request]
    answer: type[Answer]
    ask: Ask


_questions: dict[str, Question] = {}


def question(request: type[Request], answer: type[Answer]) -> Callable[[Ask], Ask]:
    """Enter a function into the registry under the name that its request's `of` has."""

    def enter(ask: Ask) -> Ask:
        name = str(request.model_fields["of"].default)
        if name in _questions:
            raise ValueError(f"question {name} is entered twice")
        _questions[name] = Question(name, request, answer, ask)
        return ask

    return enter


def questions() -> dict[str, Question]:
    """Return all questions by name."""
    return dict(_questions)


def asked(data: dict[str, Any]) -> Request:
    """Read what is asked; raises CommandRefused that names the field."""
    known = _questions.get(str(data.get("of")))
    if known is None:
        raise CommandRefused(f"There is no question “{data.get('of')}”; there are {', '.join(_questions)}.")
    try:
        return known.request.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise CommandRefused(f"{'.'.join(map(str, first['loc']))}: {first['msg']}.") from error


def ask(part: Part, evaluation: Evaluation, request: Request) -> Answer:
    """Answer a question; raises WendalError in words."""
    return _questions[str(request.of)].ask(part, evaluation, request)  # type: ignore[attr-defined]
