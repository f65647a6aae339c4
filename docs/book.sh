#!/usr/bin/env bash
# Makes a site of the documents in target/book, with a generator for Markdown books (`cargo install mdbook`). Its chapters
# are those of docs/README.md, in that order.
set -euo pipefail
cd "$(dirname "$0")/.."
book=target/book
rm -rf "$book"
mkdir -p "$book/src"
git ls-files '*.md' 'LICENSE*' examples 'docs/screenshots/*.png' 'docs/schemas/*' | tar -cf - -T - | tar -xf - -C "$book/src"
cat > "$book/book.toml" <<'BOOK'
[book]
title = "Quillon"
language = "en"
src = "src"

[output.html]
default-theme = "light"
preferred-dark-theme = "navy"
BOOK
# chapter INDENT FILE: an item with the heading of its page.
chapter() {
    echo "$1- [$(sed -n 's/^# //p' "$2" | head -n 1)]($2)"
}
{
    echo "# Summary"
    echo
    echo "[Quillon](README.md)"
    chapter "" docs/README.md
    # A heading is a part, and an item with a page a chapter.
    sed -nE -e 's/^## (.*)/\n# \1\n/p' -e 's|^- \[[^]]*\]\(([^)]*\.md)\).*|\1|p' docs/README.md |
        while read -r line; do
            case $line in
                ../*) chapter "" "${line#../}" ;;
                *.md) chapter "" "docs/$line" ;;
                *) echo "$line" ;;
            esac
            if [ "$line" = ../languages/README.md ]; then
                for page in languages/*/README.md; do chapter "  " "$page"; done
            fi
        done
    chapter "" fuzz/README.md
    chapter "" CHANGELOG.md
} > "$book/src/SUMMARY.md"
# In a site the page of a folder is its index.
find "$book/src" -name README.md -execdir mv {} index.md \;
find "$book/src" -name '*.md' -exec perl -pi -e 's/README\.md/index.md/g' {} +
mdbook build "$book"
echo "$book/book/index.html"
