#!/bin/sh
# For a machine that watches a repository: presses pages, and fails where something is wrong, or where a number has
# changed by more than is expected since the last release. It needs a shell and Worn Page, and no service in particular.
#
#   sh watch.sh paper.md report.md             press, check, compare with each page's release
#   RELEASE=yes sh watch.sh paper.md           what the page shows now is the release from now on: commit paper.release.json
#   OVER=5% OUTPUTS=html,pdf sh watch.sh …     other limits and outputs (1% and html otherwise)
#
# The reports (paper.compared.html) and the outputs are worth keeping as what the run has made.
set -u
failed=0
for page in "$@"; do
    record="${page%.*}.release.json"
    worn check "$page" --before-sharing || failed=1
    worn press "$page" --as "${OUTPUTS:-html}" || { failed=1; continue; }
    if [ -n "${RELEASE:-}" ]; then
        worn compare "$page" --write "$record" || failed=1
    elif [ -f "$record" ]; then
        worn compare "$page" --with "$record" --fail-over "${OVER:-1%}" || failed=1
    fi
    worn compare "$page" --outputs || failed=1
done
exit "$failed"
