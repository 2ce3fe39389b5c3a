#!/usr/bin/env bash
# Makes all screenshots from the demo. Needs the program on PATH, and Debian's xvfb, xterm, imagemagick and chromium.
set -euo pipefail
here=$(cd "$(dirname "$0")/screenshots" && pwd)
work=$(mktemp -d)
trap 'kill $(jobs -p) 2>/dev/null; rm -rf "$work"' EXIT
cd "$work"

export DISPLAY=:97
Xvfb "$DISPLAY" -screen 0 1280x800x24 >/dev/null 2>&1 &
sleep 2

# shot NAME SECONDS COMMAND: what a terminal window shows after this many seconds of COMMAND
shot() {
    xterm -geometry 158x47+0+0 -fa "DejaVu Sans Mono" -fs 10 -bg "#1c1f26" -fg "#eceef2" -bw 0 +sb -e \
        bash -c "clear; $3; sleep 60" &
    local window=$!
    sleep "$2"
    import -window root "$here/$1.png"
    kill "$window"
}

shot demo 8 'echo "\$ kivel demo"; kivel demo 2>&1 | head -45'
kivel demo --all --quiet
cd mothlight-orchard
kivel sheet spore -o spore.png --gap 2 --hold 40ms --repeat 1 --compress small --quiet
kivel preview night.kivel.json -o night.html --force --quiet
kivel layer "lantern/lantern_#.png" "lantern/lantern_#_emission.png blend=plus-lighter matte" -o lantern-lit --quiet
kivel scroll "moss.png scroll=0,1 by=swell.png strength=6 by-scroll=1,0" -o moss-rows --count 48 --fps 24 --quiet
kivel scroll "swell.png scroll=-1,1" -o glint --count 48 --fps 24 --quiet
kivel layer moss-rows "glint blend=soft-light opacity=0.8" -o moss-lit --quiet
kivel slice shed.png -o shed-ways --islands --look shed-ways.png --dry-run --quiet || true
kivel slice shed.png -o shed-ways --look shed-ways.png --force --quiet || true
kivel export moth.kivel.json --to css -o moth.html --force --quiet
shot inspect 8 'for words in vane "vane/vane_#.png" spore.kivel.json; do
    echo "\$ kivel inspect \"$words\""; kivel inspect "$words"; echo; done'
shot loop 10 'for words in "vane/vane_#.png --find 40-70" spore moth moss.png; do
    echo "\$ kivel loop $words"; kivel loop $words; echo; done'
shot check 8 'for words in "check night.kivel.json spore.kivel.json" "check burst.kivel.json --plays burst-25"; do
    echo "\$ kivel $words"; kivel $words; echo; done'
shot plan 8 'for words in "vane-48 --fit-page 512x512 --gap 2"; do
    echo "\$ kivel plan $words"; kivel plan $words; echo; done'
shot retime-timeline 10 'for words in "retime night.kivel.json --clip rise --direction alternate --pace ease-in-out --dry-run" \
    "timeline night.kivel.json --clip moth" "timeline night.kivel.json --clip lantern --clock 12"; do
    echo "\$ kivel $words"; kivel $words; echo; done'
shot pack 8 'for words in "export moth.kivel.json burst.kivel.json --profile tiles.toml -o orchard-pack"; do
    echo "\$ kivel $words"; kivel $words; echo; done; echo "\$ find orchard-pack -type f | sort"; find orchard-pack -type f | sort
    echo; echo "\$ cat orchard-pack/timing/moth.txt"; cat orchard-pack/timing/moth.txt
    echo; echo "\$ kivel retime moth.kivel.json --fps 8 --quiet"; kivel retime moth.kivel.json --fps 8 --quiet
    words="export moth.kivel.json --profile tiles.toml -o orchard-pack --diff --prune"
    echo "\$ kivel $words"; kivel $words'
shot build 12 'tail -n +11 kivel.toml; echo; echo "\$ kivel build --list"; kivel build --list
    echo; echo "\$ cp spore/spore_0018.png spore/spore_0019.png"; cp spore/spore_0018.png spore/spore_0019.png
    for words in "build --why spark" build build; do echo; echo "\$ kivel $words"; kivel $words; done'
page() { echo "<!doctype html><body style='margin: 0; overflow: hidden; background: #1c1f26; color: #eceef2; font: 20px sans-serif'>"
    echo "<p style='margin: 24px'>Tonight in the orchard</p><div style='transform: scale(12); transform-origin: 0 0; margin-left: 80px'>"
    cat moth.html; echo "</div><div style='position: absolute; left: 620px; top: 90px; white-space: pre; font: 15px monospace'>"
    head -14 moth.html | sed 's/</\&lt;/g'; echo "</div>"; }
page > page.html
chromium --headless --no-sandbox --window-size=1280,520 --virtual-time-budget=350 --screenshot="$here/export.png" page.html 2>/dev/null
# view NUMBER PAGE: one of the four views of the viewer
view() { chromium --headless --no-sandbox --use-angle=swiftshader --enable-unsafe-swiftshader --ignore-gpu-blocklist --hide-scrollbars \
    --window-size=1280,800 --virtual-time-budget=1600 --screenshot="view-$1.png" "file://$PWD/$2" 2>/dev/null; }
kivel preview burst.kivel.json --beside burst-25 -o two.html --quiet
kivel preview moss-lit -o moss.html --quiet
view 1 "night.html#beside=lantern&pivot=1"
view 2 "moss.html#tile=3x3&zoom=2"
view 3 "two.html#beside=burst-25:%20burst&wipe=1&backdrop=%233a5a40"
view 4 "night.html#many=12&of=group%20row&theme=light&backdrop=light"
montage view-[1-4].png -tile 2x2 -geometry 960x600+4+4 -background "#000" -colors 255 "PNG8:$here/viewer.png"
shot play 4 'kivel play vane.kivel.json'
cp shed-ways.png "$here/ways.png"
cp props-layout.png "$here/layout.png"
kivel inspect burst --chart inspect-chart.png --force --quiet
convert "$here/inspect.png" inspect-chart.png -append -colors 255 "PNG8:$here/inspect.png"
# each stock movement, of drawn squares and of moss: six frames of a loop
convert -size 16x16 xc:"#223044" -fill "#ffd27a" -draw "rectangle 0,0 15,1 rectangle 0,0 1,15" square.png
convert -size 128x128 tile:square.png squares.png
for by in waves ripples noise turbulence; do
    for tile in squares moss; do
        kivel scroll "$tile.png by=$by strength=4 by-scroll=1,0" -o "$tile-$by" --count 6 --quiet
        montage "$tile-$by"/*.png -tile 6x1 -geometry +2+2 -background "#1c1f26" "$tile-$by.png"
    done
    convert -size 150x264 -background "#1c1f26" -fill "#eceef2" -font DejaVu-Sans -pointsize 18 -gravity center \
        caption:"by=$by" \( "squares-$by.png" "moss-$by.png" -append \) +append "movement-$by.png"
done
convert movement-{waves,ripples,noise,turbulence}.png -append +repage -colors 255 "PNG8:$here/movements.png"
contact() { kivel preview "$1" -o "$here/$2.png" --force --quiet; }
contact burst-25 prep
kivel resample smoke -o even --count 16 --motion --even --quiet
kivel sheet even -o warped.png --inbetween 3 --quiet
kivel sheet even -o faded.png --interpolation linear --inbetween 3 --quiet
for name in warped faded; do kivel slice $name.kivel.json -o $name --quiet; done
# row NUMBER NAME PATTERN: ten frames that follow each other, enlarged, with a name beside them
row() {
    local files=()
    for number in $(seq 20 29); do files+=("$(printf "$3" "$number")"); done
    montage "${files[@]}" -crop 72x124+28+4 +repage -filter point -resize 160% -tile 10x1 -geometry +0+0 -background "#1c1f26" row.png
    convert -size 116x198 -background "#1c1f26" -fill "#eceef2" -font DejaVu-Sans -pointsize 15 -gravity center caption:"$2" row.png \
        +append -background "#1c1f26" -alpha remove "row-$1.png"
}
row 1 "rendered" smoke/smoke_%04d.png
row 2 "16 frames, faded" faded/faded_%04d.png
row 3 "16 frames, warped" warped/warped_%04d.png
for name in faded warped; do for number in $(seq -f %04g 20 29); do
    convert "$name/${name}_$number.png" "smoke/smoke_$number.png" -background black -alpha remove -compose difference -composite \
        -evaluate multiply 4 "off-$name-$number.png"; done; done
row 4 "off by, x 4: faded" off-faded-%04d.png
row 5 "off by, x 4: warped" off-warped-%04d.png
convert row-[1-5].png -append -resize 1280x -colors 255 "PNG8:$here/motion.png"
kivel preview lantern-lit -o layer.png --force --quiet
kivel preview moss-lit -o scroll.png --force --quiet
convert layer.png scroll.png -append -colors 255 "PNG8:$here/layer-scroll.png"
cp spore.png "$here/sheet.png"
cp scene.apng "$here/preview.png"
