#!/usr/bin/env bash
# Makes the pictures in docs/screenshots/ from the sample project: each command in an xterm of 100 columns.
# Needs xterm, Xvfb and ImageMagick (Debian: xterm xvfb imagemagick fonts-dejavu-core).
set -euo pipefail
cd "$(dirname "$0")/.."
for tool in xterm Xvfb import; do
    command -v "$tool" >/dev/null || { echo "screenshots: $tool is missing: apt-get install xterm xvfb imagemagick fonts-dejavu-core" >&2; exit 2; }
done
cargo build --release --quiet
signpost=${CARGO_TARGET_DIR:-$PWD/target}/release/signpost
out=$PWD/docs/screenshots
work=$(mktemp -d)
trap 'kill "${server:-}" 2>/dev/null || true; rm -rf "$work"' EXIT
"$signpost" tour --into "$work/tour" >/dev/null
cp -r "$work/tour/hollowbarrow" "$work/unknown" && rm -r "$work/unknown/guidance" && : >"$work/unknown/signpost.toml"
export DISPLAY=:97 HOME=$work/tour/home
Xvfb "$DISPLAY" -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
sleep 1

# shot NAME LINES COMMAND: a command line and what it prints, cut to so many lines.
shot() {
    local name=$1 lines=$2 command=$3
    cat >"$work/run" <<RUN
cd "$work/${project:-tour/hollowbarrow}"
signpost() { "$signpost" --color always "\$@"; }
tput civis
printf '\033[1;35m\$ %s\033[0m\n\n' '$command'
$command 2>&1 | sed -n '$lines'
touch "$work/done"
sleep 60
RUN
    rm -f "$work/done"
    xterm -fa 'DejaVu Sans Mono' -fs 11 -geometry 100x46+0+0 -bg '#fbf9f4' -fg '#22262a' -b 12 \
        -xrm 'XTerm*color2: #1d7a4c' -xrm 'XTerm*color3: #a05a00' -xrm 'XTerm*color5: #8a3a78' -xrm 'XTerm*color6: #0a6c86' \
        -xrm 'XTerm*color8: #6b7075' -xrm 'XTerm*color1: #b3261e' -xrm 'XTerm*color4: #2456a6' -xrm 'XTerm*color9: #b3261e' -xrm 'XTerm*color10: #1d7a4c' \
        -xrm 'XTerm*color11: #a05a00' -xrm 'XTerm*color12: #2456a6' -xrm 'XTerm*color13: #8a3a78' -xrm 'XTerm*color14: #0a6c86' \
        -e bash "$work/run" &
    local term=$!
    for _ in $(seq 50); do [ -e "$work/done" ] && break; sleep 0.1; done
    sleep 0.4
    import -window root "$work/full.png"
    convert "$work/full.png" -trim +repage -bordercolor '#fbf9f4' -border 8 -colors 64 -strip "$out/$name.png"
    kill "$term" 2>/dev/null || true
    wait "$term" 2>/dev/null || true
}

shot tour 1,43p 'signpost tour'
shot survey 1,43p 'signpost survey'
shot at 1,43p 'signpost at kiosk/src/screens/DepositScreen.tsx'
shot why-not 1,43p 'signpost at ledger/migrations/0010_regrade_lots.sql --assistant oddwick --why-not'
shot lint 1,41p 'signpost lint kiosk'
shot lint-safety 1,40p 'signpost lint docs --only safety'
shot facts 1,43p 'signpost survey --facts'
shot weigh 1,43p 'signpost weigh'
shot scope 1,43p 'signpost scope --like kiosk/src/screens/DepositScreen.tsx kiosk/src/screens/LookUpScreen.tsx'
shot doubts 1,43p 'signpost doubts'
project=unknown shot profile-draft 1,40p 'signpost profile draft'
shot explain 1,43p 'signpost explain consistency/contradiction'
shot draft 1,43p 'signpost draft packages --for "kiosk/**" --text "Use npm for packages, never pnpm." --dry-run'
shot split 1,43p 'signpost split AGENTS.md'
# What writes files is shown on a copy that nobody has adopted or published yet.
cp -r "$work/tour/hollowbarrow" "$work/new" && rm -r "$work/new/signpost.toml" "$work/new/guidance/rules"
project=new shot init 1,41p 'signpost init --yes'
cp -r "$work/tour/hollowbarrow" "$work/once"
export project=once
shot parity 1,41p 'signpost parity'
shot adopt 1,41p 'signpost adopt'
shot publish 1,41p 'signpost publish'
sed -i 's/^# Kiosk$/# Kiosk\n\n- Keep the way back to the welcome screen on every screen./' "$work/once/kiosk/TANSEL.md"
shot absorb 1,43p 'signpost absorb'
