#!/usr/bin/env bash
# ./run package: a wheel, and a .deb that holds all it needs beside Python and the system libraries of Qt.
set -euo pipefail
cd "$(dirname "$0")/.."
python="$1"
qt_libraries="$2"

rm -rf build dist/tree
mkdir -p dist
"$python" -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
rm -rf build src/*.egg-info
wheel="$(ls -t dist/summula-*.whl | head -1)"
version="$(basename "$wheel" | cut -d- -f2)"
minor="$("$python" -c 'import sys; print(sys.version_info.minor)')"

tree=dist/tree
home="$tree/usr/lib/summula"
mkdir -p "$home" "$tree/usr/bin" "$tree/DEBIAN" "$tree/usr/share/doc/summula"
"$python" -m pip install --quiet --disable-pip-version-check --no-compile --target "$home" -r requirements/app.txt
"$python" -m pip install --quiet --disable-pip-version-check --no-compile --no-deps --target "$home" "$wheel"
rm -rf "$home/bin" "$home"/PyQt6/Qt6/qml "$home"/PyQt6/Qt6/translations
find "$home" -name __pycache__ -prune -exec rm -rf {} +
find "$home" -type d -name tests -path '*/numpy/*' -prune -exec rm -rf {} +
find "$home" -type d -name tests -path '*/scipy/*' -prune -exec rm -rf {} +

cat > "$tree/usr/bin/summula" <<'SH'
#!/bin/sh
PYTHONPATH=/usr/lib/summula${PYTHONPATH:+:$PYTHONPATH} exec /usr/bin/python3 -m summula "$@"
SH
chmod 755 "$tree/usr/bin/summula"
PYTHONPATH="$home" "$python" - "$tree/usr/share" <<'PY'
import sys
from pathlib import Path
from summula.cli.integrating import parts
for part in parts(Path(sys.argv[1]), ["summula"]):
    part.place.parent.mkdir(parents=True, exist_ok=True)
    part.place.write_bytes(part.content)
PY
find "$home" -name __pycache__ -prune -exec rm -rf {} +
cp LICENSE "$tree/usr/share/doc/summula/copyright"

depends="python3 (>= 3.$minor), python3 (<< 3.$((minor + 1)))"
for each in $qt_libraries; do depends="$depends, $each"; done
cat > "$tree/DEBIAN/control" <<CONTROL
Package: summula
Version: $version
Architecture: $(dpkg --print-architecture)
Maintainer: Summula <summula@localhost>
Installed-Size: $(du -sk "$tree/usr" | cut -f1)
Depends: $depends
Recommends: desktop-file-utils, shared-mime-info
Section: misc
Priority: optional
Description: Pivot summaries, charts and sliced boards from flat tables
 Turns CSV, XLSX, ODS, Parquet and other flat tables into pivot summaries,
 pivot charts and slicer-driven boards, on the desktop, without a server.
CONTROL
cat > "$tree/DEBIAN/postinst" <<'SH'
#!/bin/sh
set -e
if [ "$1" = configure ]; then
  python3 -m compileall -q /usr/lib/summula/summula >/dev/null 2>&1 || true
  for each in "update-desktop-database -q" "update-mime-database /usr/share/mime" "gtk-update-icon-cache -q -t -f /usr/share/icons/hicolor"; do
    command -v "${each%% *}" >/dev/null 2>&1 && $each >/dev/null 2>&1 || true
  done
fi
SH
cat > "$tree/DEBIAN/prerm" <<'SH'
#!/bin/sh
set -e
find /usr/lib/summula -name __pycache__ -prune -exec rm -rf {} + 2>/dev/null || true
SH
chmod 755 "$tree/DEBIAN/postinst" "$tree/DEBIAN/prerm"
deb="dist/summula_${version}_$(dpkg --print-architecture).deb"
dpkg-deb --root-owner-group -Zxz -z1 --build "$tree" "$deb" >/dev/null
rm -rf "$tree"
ls -l "$wheel" "$deb" | awk '{ printf "%s  %.1f MB\n", $NF, $5 / 1e6 }'
