"""Parts as data. The bundled generic figures are package data; a project may override them."""
