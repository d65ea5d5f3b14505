"""Items: what a repeated part of a page is, what it is called, and what says so."""

from enum import Enum

from msgspec import Struct


class ItemForm(Enum):
    """How an item is told from the page around it; its value is how that is said, with its place and what it is in."""

    MARKED = "marked up as a thing of its own"
    ROW = "row {place} of the table{of}"
    COLUMN = "column {place} of the table{of}"
    CELL = "a cell of a table"
    TABLE = "a table of facts{of}"
    ENTRY = "entry {place} of a list"
    FOLDER = "folder {place} of a listing of files"
    TERM = "term {place} of a list of terms"
    ARTICLE = "an article"
    FIGURE = "a figure"
    LIKE = "one of {like} parts of one shape"
    RUN = "one of {like} runs of picture and words"
    PAGE = "what the page is about"
    DATA = "named in a data block of the page"
    POST = "entry {place} of the feed{of}"
    CANVAS = "canvas {place} of the manifest{of}"
    MESSAGE = "message {place}"
    PART = "part {place} of the record{of}"
    LISTED = "from a list"


class NamedBy(Enum):
    """What an item has its title from; its value is how that is said."""

    PROPERTY = "its structured name"
    HEADING = "the heading in it"
    TITLED = "the words in it whose class says title or name"
    LINK = "the text of its link"
    LABEL = "its label"
    STATED = "its title"
    HEADER_CELL = "its header cell"
    CELL = "the cell of its name"
    TERM = "its term"
    CAPTION = "its caption"
    BOLD = "the bold or italic words it begins with"
    WRITTEN = "how what was written begins"
    LINE = "the first short line in it"
    ALT = "the alternative text of its picture"
    PAGE = "the page's heading"
    LISTED = "its list"


class Item(Struct, frozen=True):
    """The smallest repeated part of a page that holds a picture: what a person calls it, and what is said of it."""

    title: str = ""
    url: str = ""
    """its own page; empty if it has none"""
    columns: tuple[tuple[str, str], ...] = ()
    """what is said of it, by the header, term or label that it stands under"""
    form: ItemForm = ItemForm.LIKE
    named_by: NamedBy = NamedBy.LINE
    place: int = 0
    """which it is of its like, from 1"""
    of: str = ""
    """the caption of its table, the title of its feed or record; of one from a list, what that says of where it was"""
    like: int = 0
    """how many there are of its kind"""

    @property
    def said(self) -> str:
        """Where it is, and what it has its title from, in words."""
        if self.form is ItemForm.LISTED and self.of:
            return self.of
        of = f" “{self.of}”" if self.of else ""
        where = self.form.value.format(place=self.place or "?", of=of, like=self.like)
        return f"{where}; named by {self.named_by.value}"


NO_ITEM = Item()


class NextPage(Struct, frozen=True):
    """The page with which a list goes on."""

    url: str
    form: str = ""
    """what is posted to it (application/x-www-form-urlencoded); empty if it is asked for by its address alone"""
    is_guess: bool = False
    """whether nothing says that it is there: it may be asked for, and need not be missed"""
