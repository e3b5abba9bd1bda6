"""Starting methods: one module each behind one signature, and the table that registers them."""

from volmek.core.document import StarterType
from volmek.core.starters import direct_on_line
from volmek.core.starters.method import Method

METHODS: dict[StarterType, Method] = {"direct_on_line": direct_on_line.METHOD}
