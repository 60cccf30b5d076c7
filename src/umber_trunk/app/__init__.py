"""The window. Qt only: widgets show what the core computed and hand edits to the document.

The core is loaded before Qt: once Qt's bindings are there, they read the source of every module that comes after them.
"""

from umber_trunk.core import analysis as analysis
from umber_trunk.store import project as project
