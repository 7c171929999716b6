# Shared by demo and test: prerequisites and a private PostgreSQL on loopback.
# Plain POSIX shell; no make and no C compiler needed.

root=$(CDPATH= cd -- "$(dirname -- "$0")/.." && pwd)
pgbin=/usr/lib/postgresql/15/bin

say() { printf '%s\n' "$*" >&2; }
die() { say "$*"; exit 1; }

as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null 2>&1; then sudo "$@"; else
    die "this step needs root or sudo: $*"; fi
}

apt_get() { as_root env DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 "$@"; }

# need PACKAGE PATH: installs a Debian package unless PATH is there already.
need() {
  [ -e "$2" ] && return 0
  command -v apt-get >/dev/null 2>&1 || die "$1 is missing and this is not a Debian machine; install it by hand"
  if [ -z "${apt_fresh:-}" ]; then say "updating the package lists"; apt_get update -qq >&2; apt_fresh=1; fi
  if [ "$1" = postgresql-15 ] && ! grep -qs "^create_main_cluster *= *false" /etc/postgresql-common/createcluster.conf; then
    # The server is ours alone: no cluster of the system's own.
    apt_get install -y -qq --no-install-recommends postgresql-common >&2
    as_root sh -c 'mkdir -p /etc/postgresql-common; grep -q "^create_main_cluster" /etc/postgresql-common/createcluster.conf 2>/dev/null && sed -i "s/^create_main_cluster.*/create_main_cluster = false/" /etc/postgresql-common/createcluster.conf || echo "create_main_cluster = false" >> /etc/postgresql-common/createcluster.conf'
  fi
  say "installing $1"
  apt_get install -y -qq --no-install-recommends "$1" >&2
}

toolchains() {
  command -v go >/dev/null 2>&1 || { [ -x /usr/local/go/bin/go ] && PATH=$PATH:/usr/local/go/bin; }
  command -v go >/dev/null 2>&1 || die "Go is missing; install Go 1.26 or newer and put it on the PATH"
  command -v npm >/dev/null 2>&1 || die "Node.js with npm is missing; install Node 20 or newer"
}

# front_end installs the npm packages if the lock file changed, and builds.
front_end() {
  mark="$root/ui/node_modules/.installed-from"
  sum=$(cksum < "$root/ui/package-lock.json")
  if [ "$(cat "$mark" 2>/dev/null)" != "$sum" ]; then
    say "installing front-end packages"
    (cd "$root/ui" && npm ci --no-audit --no-fund --loglevel=error >&2) || die "npm ci failed"
    printf '%s' "$sum" > "$mark"
  fi
}

build() {
  front_end
  say "building"
  (cd "$root/ui" && npx vite build --logLevel error >&2) || die "the front end did not build"
  (cd "$root" && CGO_ENABLED=0 go build -trimpath -ldflags "-X main.version=$(git -C "$root" rev-parse --short HEAD 2>/dev/null || echo dev)" -o bin/coatrack ./cmd/coatrack) || die "the binary did not build"
}

# PostgreSQL refuses root: as root its programs run as the postgres user.
pg() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

port_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }
