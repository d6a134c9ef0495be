# Builds server and web application where their sources are newer than what was built. Sourced, not run.

# newer TARGET SOURCES…: whether a source is newer than the target, or the target is missing.
newer() {
  local target=$1; shift
  [ ! -e "$target" ] || [ -n "$(find "$@" -newer "$target" -not -path '*/obj/*' -not -path '*/bin/*' -not -path '*/node_modules/*' -type f -print -quit)" ]
}

build_server() {
  local built=$PWD/.run/server-built
  mkdir -p .run
  newer "$built" src Directory.Packages.props Directory.Build.props || return 0
  echo "Building the server …" >&2
  dotnet restore src/Juniperfall.Server --locked-mode --verbosity quiet
  dotnet build src/Juniperfall.Server --no-restore --configuration Release --verbosity quiet --nologo >&2
  touch "$built"
}

# npm_packages FOLDER: installs what the lock file names, unless it is there.
npm_packages() {
  newer "$1/node_modules/.package-lock.json" "$1/package-lock.json" || return 0
  echo "Installing the packages of $1 …" >&2
  (cd "$1" && PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund --silent && touch node_modules/.package-lock.json)
}

e2e_packages() { npm_packages tests/e2e; }

build_web() {
  local built=$PWD/web/dist/index.html
  npm_packages web
  newer "$built" web/src web/public web/vite.config.ts web/index.html web/package-lock.json src/Juniperfall.Server/obj/openapi.json || return 0
  echo "Building the web application …" >&2
  (cd web && npm run --silent api >/dev/null && npm run --silent build >&2)
}
