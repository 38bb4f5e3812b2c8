# What ./start and ./test share. Sourced, not run. Everything it does is
# skipped when it is already done.

die() { printf '%s\n' "$*" >&2; exit 1; }

need_tools() {
  command -v go >/dev/null || { [ -x /usr/local/go/bin/go ] && PATH=$PATH:/usr/local/go/bin; } || die "Go is missing: install Go 1.26 or newer, then start again."
  command -v node >/dev/null || die "Node.js is missing: install Node.js 20 or newer, then start again."
  command -v npm >/dev/null || die "npm is missing: install it with Node.js, then start again."
}

# The program is pure Go: without cgo it is compiled before Debian's compiler is there, and
# once for all that builds, tests and checks it. The race detector alone asks for cgo.
export CGO_ENABLED=${CGO_ENABLED:-0}

# need_package NAME PATTERN: installs Debian's package NAME unless a file matches.
need_package() {
  compgen -G "$2" >/dev/null && return
  local sudo=""
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || die "$1 is missing: install it with 'apt-get install $1' as root (sudo is not here), then start again."
    sudo=sudo
  fi
  command -v apt-get >/dev/null || die "$1 is missing and apt-get is not here: install $1, then start again."
  echo "Installing Debian's $1 …" >&2
  # The packaged default server is not wanted: Juxta runs one of its own.
  if [ "$1" = postgresql ] && [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    $sudo mkdir -p /etc/postgresql-common
    echo "create_main_cluster = false" | $sudo tee /etc/postgresql-common/createcluster.conf >/dev/null
  fi
  debian() { $sudo apt-get update -qq && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$1" >/tmp/juxta-apt.$$ 2>&1; }
  telling "Installing Debian's $1" debian "$1" ||
    { tail -3 /tmp/juxta-apt.$$ >&2; die "$1 could not be installed: run 'apt-get install $1' as root and see why, then start again."; }
  rm -f /tmp/juxta-apt.$$
}

# newer STAMP FILES…: whether any file is newer than the stamp, or it is missing.
newer() {
  local stamp=$1
  shift
  [ ! -e "$stamp" ] || [ -n "$(find "$@" -newer "$stamp" -print -quit)" ]
}

web_packages() {
  newer web/node_modules/.juxta-stamp web/package.json web/package-lock.json || return 0
  echo "Fetching the web packages …" >&2
  telling "Fetching the web packages" npm --prefix web ci --no-audit --no-fund --loglevel=error >&2 || die "The web packages could not be fetched: check the connection to the npm registry, then start again."
  touch web/node_modules/.juxta-stamp
}

# go_packages fetches and compiles what a new clone has nothing of yet; what goes wrong is for
# the build to say.
go_packages() {
  [ ! -e bin/juxta ] || return 0
  go mod download >/dev/null 2>&1 || return 0
  go build ./... >/dev/null 2>&1 || true
}

build_web() {
  web_packages
  newer web/dist/index.html web/src web/public web/index.html web/vite.config.ts web/package-lock.json || return 0
  echo "Building the web pages …" >&2
  pages() { cd web && npx --no-install vite build --logLevel error; }
  telling "Building the web pages" pages >&2 || die "The web pages could not be built: see above."
}

build_binary() {
  mkdir -p bin
  telling "Building the program" go build -o bin/juxta ./cmd/juxta || die "The program could not be built: see above."
}

# telling WHAT COMMAND…: says that something takes long, every few seconds. The command
# itself stays in front, where Ctrl-C reaches it.
telling() {
  local what=$1 began=$SECONDS rc=0
  shift
  while sleep 5 >/dev/null 2>&1 && kill -0 $$ 2>/dev/null; do echo "$what … $((SECONDS - began)) s" >&2; done &
  local teller=$!
  ("$@") || rc=$?
  kill "$teller" 2>/dev/null || true
  wait "$teller" 2>/dev/null || true
  return $rc
}

# in_memory lets tests keep their files in memory, where there is room: databases come
# and go with every test. What is built stays on the disk.
in_memory() {
  [ -z "${TMPDIR:-}" ] && [ -w /dev/shm ] && [ "$(df --output=avail -k /dev/shm | tail -1)" -gt 4000000 ] || return 0
  export GOTMPDIR=${GOTMPDIR:-/tmp} TMPDIR=/dev/shm
}

# tree is the commit of the working tree; empty where something is changed.
tree() { [ -n "$(git status --porcelain 2>/dev/null)" ] || git rev-parse HEAD 2>/dev/null || true; }
