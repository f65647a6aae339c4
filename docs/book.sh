#!/usr/bin/env bash
# Makes a site of the documents in target/book, with a generator for Markdown books (`cargo install mdbook`). Its chapters
# are those of docs/README.md, in that order.
set -euo pipefail
cd "$(dirname "$0")/.."
book=target/book
rm -rf "$book"
mkdir -p "$book/src"
git ls-files '*.md' 'docs/screenshots/*.png' 'docs/schemas/*' | tar -cf - -T - | tar -xf - -C "$book/src"
cat > "$book/book.toml" <<'BOOK'
[book]
title = "Quillon"
language = "en"
src = "src"

[output.html]
default-theme = "light"
preferred-dark-theme = "navy"
BOOK
{
    echo "# Summary"
    echo
    echo "[Quillon](README.md)"
    # A heading is a part, and an item with a page a chapter.
    sed -nE \
        -e 's/^## (.*)/\n# \1\n/p' \
        -e 's|^- \[([^]]*)\]\(\.\./([^)]*\.md)\).*|- [\1](\2)|p' \
        -e 't' \
        -e 's|^- \[([^]]*)\]\(([^)]*\.md)\).*|- [\1](docs/\2)|p' \
        docs/README.md
} > "$book/src/SUMMARY.md"
mdbook build "$book"
echo "$book/book/index.html"
