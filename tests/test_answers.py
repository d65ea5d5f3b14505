"""Answers of interfaces for programs: where they go on, and what the things in them lead to."""

import json
from urllib.parse import parse_qs, urlsplit

import pytest

from conftest import Answering, Program, Server, serving
from pickcrate.items.data.answers import answer_of, next_of_answer
from pickcrate.items.entries import entries
from pickcrate.items.pager.cursors import Further, further_answers
from pickcrate.read.data.datafile import DATA_FIELDS, as_page
from pickcrate.read.data.xmldata import as_json
from pickcrate.read.pages.document import read_document

ANSWERS = [
    ('{"count": 9, "next": "/k?offset=5", "results": [{"next": "/no"}]}', ["/k?offset=5"]),
    ('{"_links": {"self": {"href": "/k"}, "next": {"href": "?after=9f"}}}', ["?after=9f"]),
    ('{"hydra:view": {"@type": "x", "hydra:next": "/k?page=2"}}', ["/k?page=2"]),
    ('{"@odata.nextLink": "https://k.example/k?$skip=5", "value": []}', ["https://k.example/k?$skip=5"]),
    ('{"links": {"next": "kites?offset=5"}}', ["kites?offset=5"]),
    ('{"next": "9f", "next_page": 2, "nextPage": null, "next_url": "What next?"}', []),
    ('{"features": [{}], "links": [{"rel": "self", "href": "/k"}, {"rel": "next", "href": "/k?p=2"}]}', ["/k?p=2"]),
    ('{"type": "OrderedCollection", "first": "/k?p=1"}', ["/k?p=1"]),
    ('{"first": "/k?p=1", "items": [{}]}', []),
    ("[" * 5_000, []),
]


@pytest.mark.parametrize(("text", "expected"), ANSWERS)
def test_where_an_answer_goes_on(text: str, expected: list[str]) -> None:
    assert list(next_of_answer(answer_of(text))) == expected


def test_where_an_answer_of_a_harvest_goes_on() -> None:
    answer = '<OAI-PMH xmlns="o"><ListRecords><record/>{}</ListRecords></OAI-PMH>'
    further = [
        json.loads(as_json(answer.format(f"<resumptionToken>{token}</resumptionToken>").encode())).get("next")
        for token in ("a b&amp;c", " ")
    ]
    assert further == ["?verb=ListRecords&resumptionToken=a%20b%26c", None]


@pytest.mark.parametrize(
    ("said", "further"),
    [
        ("<NextContinuationToken>a+b=</NextContinuationToken><Prefix>hall/a b</Prefix>", "?list-type=2&continuation-token=a%2Bb%3D&prefix=hall%2Fa%20b"),
        ("<NextMarker>k&amp;m</NextMarker><Delimiter>/</Delimiter>", "?marker=k%26m&delimiter=%2F"),
        ("<Prefix/>", "?marker=b.jpg"),
        ("<IsTruncated>false</IsTruncated>", None),
    ],
)  # fmt: skip
def test_the_list_of_a_bucket_goes_on(said: str, further: str | None) -> None:
    keys = "<Contents><Key>a.jpg</Key></Contents><Contents><Key>b.jpg</Key></Contents>"
    answer = f"<ListBucketResult xmlns='s'><Name>k</Name><IsTruncated>true</IsTruncated>{said}{keys}</ListBucketResult>"
    told = json.loads(as_json(answer.encode()))
    assert (told.get("next"), told.get("Name"), len(told["Contents"])) == (further, None, 2)


K = "https://galewick.example/k"
FIVE = '"items": [{}, {}, {}, {}, {}]'
FURTHER: list[tuple[str, str, str | None]] = [
    # a cursor, under the name that the address has for it, or under its own
    ("?cursor=*&q=a+b", f'{{"nextCursor": "9/f=", {FIVE}}}', "?q=a+b&cursor=9%2Ff%3D"),
    ("?cursorMark=*", f'{{"nextCursorMark": "9f", {FIVE}}}', "?cursorMark=9f"),
    ("", f'{{"nextPageToken": "9f", {FIVE}}}', "?pageToken=9f"),
    ("", f'{{"meta": {{"next_cursor": "9f"}}, {FIVE}}}', "?cursor=9f"),
    ("?q=a", f'{{"next_token": "9f", {FIVE}}}', "?q=a&next_token=9f"),
    ("?cursor=1", f'{{"nextCursor": "\\ud800", {FIVE}}}', "?cursor=%EF%BF%BD"),
    ("?after=1", f'{{"next": "9f", {FIVE}}}', "?after=9f"),
    ("", f'{{"paging": {{"cursors": {{"before": "1", "after": "9f"}}}}, {FIVE}}}', "?after=9f"),
    ("", f'{{"cursor": {{"next": "9f"}}, {FIVE}}}', "?cursor=9f"),
    ("?page=3", f'{{"next_page": 4, {FIVE}}}', "?page=4"),
    ("", f'{{"nextOffset": 20, {FIVE}}}', "?offset=20"),
    ("?query=kite", '{"nextRecordPosition": "11", "records": {"record": [{}]}}', "?query=kite&startRecord=11"),
    ("?a=query", '{"continue": {"gapcontinue": "K|9", "continue": "gap||"}, "query": {}}',
     "?a=query&gapcontinue=K%7C9&continue=gap%7C%7C"),
    ("", f'{{"next": "9f", {FIVE}}}', None),
    ("", f'{{"nextPageToken": "", {FIVE}}}', None),
    ("?cursor=1", f'{{"nextCursor": "9f", "hasMore": false, {FIVE}}}', None),
    # the number after that of the address, as far as the answer says that there is more
    ("?page=2", f'{{"total_pages": 5, {FIVE}}}', "?page=3"),
    ("?page=5", f'{{"total_pages": 5, {FIVE}}}', None),
    ("?page%5Bnumber%5D=2&page%5Bsize%5D=5", f'{{"meta": {{"total": 12}}, {FIVE}}}', "?page%5Bsize%5D=5&page[number]=3"),
    ("?offset=10&limit=10", f'{{"total": 25, {FIVE}}}', "?limit=10&offset=20"),
    ("?offset=20&limit=10", f'{{"total": 25, {FIVE}}}', None),
    ("?start=0", '{"response": {"numFound": 9, "start": 0, "docs": [{}, {}, {}]}}', "?start=3"),
    ("?$skip=4", f'{{"count": 12, "limit": 4, {FIVE}}}', "?$skip=8"),
    ("?from=8&size=4", '{"hits": {"total": {"value": 20}, "hits": [{}, {}]}}', "?size=4&from=12"),
    ("?from=1920&to=1930", f'{{"total": 20, {FIVE}}}', None),
    ("?page=1", f'{{"total": 5, {FIVE}}}', None),
    ("?page=1", f'{{"count": 5, {FIVE}}}', "?page=2"),
    ("?page=1", f'{{"endOfRecords": true, {FIVE}}}', None),
    # that of the answer, under its own name
    ("", f'{{"page": 1, "pages": 3, {FIVE}}}', "?page=2"),
    ("?q=a", f'{{"startIndex": 0, "itemsPerPage": 5, "totalResults": 12, {FIVE}}}', "?q=a&startIndex=5"),
    ("", f'{{"page": 1, {FIVE}}}', None),
    ("?year=2020", f'{{{FIVE}}}', None),
    ("?page=2", '{"items": []}', None),
]  # fmt: skip


@pytest.mark.parametrize(("query", "text", "expected"), FURTHER)
def test_where_an_answer_goes_on_by_what_it_counts(query: str, text: str, expected: str | None) -> None:
    found = [further.url for further in further_answers(answer_of(text), K + query)]
    assert found == ([K + expected] if expected is not None else [])


def test_what_nobody_says_is_a_guess() -> None:
    assert list(further_answers(answer_of("[{}, {}]"), K + "?page=2")) == [Further(K + "?page=3", is_guess=True)]


ENTRIES = [
    ('{"results": [{"name": "Delta", "url": "/k/1"}, {"name": "Foil", "url": "/k/2"}]}', [("Delta", "/k/1"), ("Foil", "/k/2")]),
    ('{"data": [{"id": "1", "attributes": {"title": "Delta"}, "links": {"self": "/k/1"}}]}', [("Delta", "/k/1")]),
    ('{"_embedded": {"k": [{"name": "Delta", "_links": {"self": {"href": "/k/1"}}}]}}', [("Delta", "/k/1")]),
    ('{"k": [{"title": "Delta", "links": {"self": "/api/1", "web": "/k/1"}}]}', [("Delta", "/k/1")]),
    ('{"k": [{"title": "Delta", "id": "/7/1", "guid": "/k/1"}]}', [("Delta", "/k/1")]),
    ('{"k": [{"title": "Delta", "foreign_landing_url": "/k/1"}]}', [("Delta", "/k/1")]),
    ('{"f": [{"title": "Delta", "links": [{"rel": "root", "href": "/"}, {"rel": "self", "href": "/k/1"}]}]}', [("Delta", "/k/1")]),
    ('{"member": [{"@id": "/k/1"}, {"@id": "/k/2", "@type": "Kite"}]}', [("", "/k/1"), ("", "/k/2")]),
    ('{"a": [{"name": "x", "url": "https://other.example/k/1"}], "b": [{"name": "y", "url": "/k/1.jpg"}], "c": ["/k/1"]}', []),
]  # fmt: skip


@pytest.mark.parametrize(("text", "expected"), ENTRIES)
def test_what_the_things_of_an_answer_lead_to(text: str, expected: list[tuple[str, str]]) -> None:
    page = read_document(as_page(text.encode()), source="", address=K, fields=DATA_FIELDS)
    assert [(item.title, item.url) for item in entries(page)] == [
        (title, f"https://galewick.example{path}") for title, path in expected
    ]


def test_an_answer_of_a_program_goes_on_where_it_says(run: Program, web: Server) -> None:
    for place, name in enumerate(names := ("one.json", "two.json", "three.json")):
        rows = [{"title": f"Kite {n}", "maker": "Ino", "image": f"/{n}.jpg"} for n in range(2 * place, 2 * place + 2)]
        further = {"next": {"href": f"/{names[place + 1]}"}} if place < 2 else {"next": None}
        (web.www / name).write_text(json.dumps({"links": further, "data": rows}))
    first = f"{web.address}/one.json"
    assert "the list has further pages" in run("look", first).out
    done = run("look", first, "--next-pages", "9", "--format", "jsonl")
    assert [row["item"] for row in done.rows] == [f"Kite {n}" for n in range(6)]
    assert "3 pages of the list: it ends there" in done.err


KITES = [f"{colour} {kind}" for colour in ("Red", "Blue", "Amber") for kind in ("delta", "sled", "box")]


class Interface(Answering):
    """Nine kites, four at once: with and without pictures, and each by itself."""

    def do_GET(self) -> None:
        asked = urlsplit(self.path)
        if asked.path.startswith("/kite/"):
            number = asked.path[6:]
            assert "json" in self.headers["Accept"]
            kite = {
                "title": KITES[int(number)],
                "maker": "Ino",
                "images": [{"url": f"/{number}{side}.jpg"} for side in "ab"],
            }
            return self.answer(200, json.dumps(kite).encode(), "application/json")
        if asked.path == "/app":
            script = "fetch('/pages?page=0').then(show)"
            return self.answer(
                200, f"<title>Kites</title><div id=app></div><script>{script}</script>".encode(), "text/html"
            )
        if asked.path not in {"/bare", "/pictured", "/pages", "/outbox"}:
            return self.answer(404, b"", "text/plain")
        first = 4 * int(parse_qs(asked.query).get("page", ["0"])[0])
        if first >= len(KITES):
            return self.answer(400, b'{"error": "page 3 is behind the last"}', "application/json")
        if asked.path == "/outbox" and not asked.query:
            collection = {"@context": "https://www.w3.org/ns/activitystreams", "first": "/pictured?page=0"}
            return self.answer(200, json.dumps(collection).encode(), "application/activity+json")
        members = [self.member(number, asked.path) for number in range(first, min(first + 4, len(KITES)))]
        told = {"total_pages": 3, "kites": members} if asked.path == "/pages" else members
        return self.answer(200, json.dumps(told).encode(), "application/json")

    def member(self, number: int, path: str) -> dict[str, str]:
        pictured = {"image": f"/{number}.jpg"} if path in {"/pictured", "/pages"} else {}
        return {"name": KITES[number], "url": f"/kite/{number}"} | pictured


def test_the_answers_of_an_interface(run: Program) -> None:
    with serving(Interface) as port:
        there = f"http://127.0.0.1:{port}"
        # From answer to answer, as long as there are any: the last one is not said to be the last.
        done = run("look", f"{there}/pictured?page=0", "--next-pages", "9", "--format", "jsonl")
        assert [row["item"] for row in done.rows] == KITES
        assert "3 pages of the list: it ends there" in done.err
        # What is only likely is not told.
        assert "further pages" not in run("look", f"{there}/pictured?page=0").out
        # So does what a script of a page is told.
        assert "further pages" in run("look", f"{there}/app").out
        rows = run("look", f"{there}/app", "--next-pages", "9", "--format", "jsonl").rows
        assert [row["item"] for row in rows] == KITES
        # A collection shows nothing itself.
        assert "--next-pages" in run("look", f"{there}/outbox").err
        assert len(run("look", f"{there}/outbox", "--next-pages", "1", "--format", "jsonl").rows) == 4
        # From things to what is said of each.
        told = run("look", f"{there}/bare?page=0")
        assert (told.code, "it lists 4 entries: --items 3" in told.err) == (4, True)
        line = ("look", f"{there}/bare?page=0", "--items", "all", "--next-pages", "9", "--format", "jsonl")
        rows = run(*line).rows
        assert [row["item"] for row in rows] == [kite for kite in KITES for _ in "ab"]
        assert {row["item_url"] for row in rows} == {f"{there}/kite/{number}" for number in range(9)}
        assert all(row["columns"] == {"maker": "Ino"} for row in rows)
