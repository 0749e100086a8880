# Sourced by the other scripts: installs what is missing, quietly when nothing is.
# Usage: source scripts/_setup.sh demo|test
set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
cd "$ROOT"

say() { printf '· %s\n' "$*"; }

install_debian() {
  local missing=() pair
  for pair in "$@"; do
    [ -e "${pair#*=}" ] || missing+=("${pair%%=*}")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  say "installing Debian packages: ${missing[*]}"
  local as=()
  if [ "$(id -u)" -ne 0 ]; then as=(sudo -n); fi
  # Nothing may start a daemon by itself, and no default cluster is made.
  "${as[@]}" mkdir -p /etc/postgresql-common
  if [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    echo 'create_main_cluster = false' | "${as[@]}" tee /etc/postgresql-common/createcluster.conf >/dev/null
  fi
  local policy=/usr/sbin/policy-rc.d made=no
  if [ ! -e $policy ]; then
    printf '#!/bin/sh\nexit 101\n' | "${as[@]}" tee $policy >/dev/null
    "${as[@]}" chmod 755 $policy
    made=yes
  fi
  local status=0
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -qq update >/dev/null &&
    "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -qq install -y --no-install-recommends \
      "${missing[@]}" >/dev/null || status=$?
  if [ $made = yes ]; then "${as[@]}" rm -f $policy; fi
  return $status
}

make_venv() {
  local stamp=.venv/.installed want
  want="$(cat requirements/uv.lock requirements/dev.lock pyproject.toml | sha256sum | cut -d' ' -f1)"
  [ -f $stamp ] && [ "$(cat $stamp)" = "$want" ] && return 0
  say "installing Python packages into .venv"
  local python
  python="$(command -v python3.11 || command -v python3)"
  [ -x .venv/bin/python ] || "$python" -m venv .venv
  .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes -r requirements/uv.lock
  .venv/bin/uv pip install -q --compile-bytecode --require-hashes -r requirements/dev.lock
  .venv/bin/uv pip install -q --no-deps --no-build-isolation -e .
  echo "$want" >$stamp
}

build_console() {
  local target=src/yugum/api/console stamp=src/yugum/api/console/.built want
  want="$(find console -path console/node_modules -prune -o -type f -print | LC_ALL=C sort | xargs sha256sum | sha256sum | cut -d' ' -f1)"
  [ -f $stamp ] && [ "$(cat $stamp)" = "$want" ] && return 0
  install_node_modules
  say "building the console"
  (cd console && PATH="$ROOT/.venv/bin:$PATH" npm run --silent build)
  echo "$want" >$stamp
}

install_node_modules() {
  local folder=${1:-console} lock stamp
  stamp=$folder/node_modules/.installed
  lock="$(sha256sum <"$folder/package-lock.json" | cut -d' ' -f1)"
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$lock" ] && return 0
  say "installing the Node packages of $folder"
  (cd "$folder" && PATH="$ROOT/.venv/bin:$PATH" npm ci --silent --no-audit --no-fund)
  echo "$lock" >"$stamp"
}

packages=(
  postgresql-15=/usr/lib/postgresql/15/bin/postgres
  python3-venv=/usr/lib/python3.11/ensurepip
  # The mail store of the demo.
  dovecot-core=/usr/sbin/dovecot
  dovecot-imapd=/usr/lib/dovecot/imap
  dovecot-lmtpd=/usr/lib/dovecot/lmtp
  dovecot-managesieved=/usr/lib/dovecot/managesieve
  dovecot-pgsql=/usr/lib/dovecot/modules/auth/libdriver_pgsql.so
  # The directory server of the demo, and what the LDAP client is built with.
  slapd=/usr/sbin/slapd
  gcc=/usr/bin/gcc
  libc6-dev=/usr/include/stdio.h
  python3-dev=/usr/include/python3.11/Python.h
  libldap2-dev=/usr/include/ldap.h
  libsasl2-dev=/usr/include/sasl/sasl.h
  libkrb5-dev=/usr/include/krb5.h
)
if [ "${1:-demo}" = test ]; then packages+=(chromium=/usr/bin/chromium); fi
install_debian "${packages[@]}"
make_venv
# SCIM servers that are not ours, for the contract tests.
if [ "${1:-demo}" = test ]; then install_node_modules tests/outside; fi
# Where bytecode may not be written on the way, every process would compile everything again.
.venv/bin/python -m compileall -q src
build_console
