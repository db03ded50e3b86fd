"""What the project file numbers when it is stored."""

from __future__ import annotations


class Stored:
    """Something that has a number from the moment it is stored; ``id`` is None before that."""

    id: int | None

    @property
    def number(self) -> int:
        """The number under which it is stored.

        Raises
        ------
        ValueError
            It is not stored yet. Whoever asks knows that it is, so this is a fault of the program.
        """
        if self.id is None:
            raise ValueError(f"{type(self).__name__} is not stored yet and has no number")
        return self.id
