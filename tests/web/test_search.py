"""A search goes on where it was, whatever else the program keeps or lets go meanwhile."""

import time

from canopy_web.workspace.search import Search


def test_a_slow_search_ends_whatever_is_pushed_out_of_the_caches():
    tried = []

    def attempt(item):
        tried.append(item)
        time.sleep(0.3)
        return item

    search = Search(str)
    for _ in range(4):
        done = search.go_on("key", range(4), attempt)
    assert list(done) == ["0", "1", "2", "3"]
    assert tried == [0, 1, 2, 3]


def test_of_many_searches_the_oldest_goes():
    search = Search(str)
    for key in range(8):
        search.go_on(key, [1], lambda item: item)
    again = []
    search.go_on(7, [1], again.append)
    assert again == []
    search.go_on(0, [1], again.append)
    assert again == [1]
