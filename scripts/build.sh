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

web_packages() {
  if newer web/node_modules/.package-lock.json web/package-lock.json; then
    echo "Installing the web packages …" >&2
    (cd web && PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund --silent && touch node_modules/.package-lock.json)
  fi
}

build_web() {
  local built=$PWD/web/dist/index.html
  web_packages
  newer "$built" web/src web/index.html web/package-lock.json src/Juniperfall.Server/obj/openapi.json || return 0
  echo "Building the web application …" >&2
  (cd web && npm run --silent api >/dev/null && npm run --silent build >&2)
}
