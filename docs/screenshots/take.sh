#!/usr/bin/env bash
# Takes the pictures of the terminal from the demo theme. Needs xvfb, xterm, imagemagick and
# fonts-dejavu-core (Debian's names) and a release build.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
root=$(cd "$here/../.." && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp -r "$root/demo/skerry-line" "$work/site"
export PATH="$root/target/release:$PATH"

# picture NAME COMMAND [SIZE]: the command and its answer in a terminal window, as NAME.png.
picture() {
  local name=$1 command=$2 size=${3:-11}
  cat > "$work/show.sh" <<SHOW
cd "$work/site"
printf '\033[1m\$ %s\033[0m\n' "$command"
COLORTERM=truecolor CLICOLOR_FORCE=1 $command
touch "$work/shown"
sleep 20
SHOW
  rm -f "$work/shown"
  xvfb-run -a -s "-screen 0 1280x800x24" bash -c '
    xterm -fa "DejaVu Sans Mono" -fs "$3" -geometry 220x70+0+0 -bg "#10202a" -fg "#e8eef0" \
      -xrm "XTerm*color1: #ff8a75" -xrm "XTerm*color2: #7fd6a0" -xrm "XTerm*color3: #f0c060" \
      -xrm "XTerm*color6: #86c5e8" -xrm "XTerm*boldColors: false" -xrm "XTerm*scrollBar: false" -b 12 +sb -e bash "$1/show.sh" &
    for _ in $(seq 50); do [ -e "$1/shown" ] && break; sleep 0.1; done
    sleep 0.7
    import -window root "$2"
    kill %1' _ "$work" "$here/$name.png" "$size"
  # Only what the command says, with a margin.
  convert "$here/$name.png" -crop 1278x798+1+1 +repage -trim +repage -bordercolor "#10202a" -border 16 "$here/$name.png"
  echo "$name.png"
}

picture help "fingerpost" 9
picture why "fingerpost why pages/home.html h2.today color"
picture trace "fingerpost trace pages/home.html .note" 8
picture tree "fingerpost tree pages/home.html main --depth 3"
picture values "fingerpost values pages/home.html h2.today --filter font"
picture whynot "fingerpost whynot pages/fares.html '.fare-best .fare-price' css/overrides.css:8"
picture sheets "fingerpost sheets pages/fares.html"
picture edit "fingerpost edit set pages/home.html .sailings padding 9px"
(cd "$work/site" && fingerpost draft discard --all >/dev/null)
picture overrides "fingerpost edit set pages/fares.html .fare-best color teal --into overrides"
picture source-map "fingerpost edit set pages/fares.html .booking max-width 30rem"
(cd "$work/site" && fingerpost edit tag pages/home.html h2.today h4 >/dev/null)
picture draft "fingerpost draft" 7.5
