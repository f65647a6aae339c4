#!/usr/bin/env bash
# Takes the screenshots of this folder anew, from the built-in demo.
# Needs Xvfb, xterm, ImageMagick, xdotool, rsvg-convert, Neovim and the font DejaVu Sans Mono:
#   apt-get install xvfb xterm imagemagick xdotool librsvg2-bin neovim fonts-dejavu-core
# Usage: docs/screenshots/make.sh [NAME…]   (all of them without a name)
set -euo pipefail
root=$(cd "$(dirname "$0")/../.." && pwd)
out=$root/docs/screenshots
(cd "$root" && cargo build --release --quiet)
work=$(mktemp -d)
trap 'rm -rf "$work"; kill "${server:-0}" 2>/dev/null || true' EXIT
export PATH=$root/target/release:$PATH XDG_STATE_HOME=$work/state QUILLON_GROUND=dark
(cd "$work" && quillon demo --save towpath >/dev/null)
for language in gauge sluice; do (cd "$work" && quillon new "my$language" --from "$language" >/dev/null); done
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
export DISPLAY=:97
sleep 1

# shot NAME COMMAND [TYPED [SECONDS]]: shows the command and what comes of it, and of what is typed then.
shot() {
  local name=$1 command=$2 typed=${3:-} seconds=${4:-1.5}
  [[ ${#wanted[@]} -eq 0 || " ${wanted[*]} " == *" $name "* ]] || return 0
  cat >"$work/session" <<SESSION
cd "$work/towpath"
printf '\033[1;32m\$\033[0m %s\n' '$command'
$command
sleep 30
SESSION
  xterm -tn xterm-256color -fa 'DejaVu Sans Mono' -fs 11 -geometry 140x42+0+0 -bg '#101418' -fg '#d8dee4' \
    -xrm 'XTerm*color8: #8a97a6' -xrm 'XTerm*cursorBlink: false' -e bash "$work/session" &
  local terminal=$!
  sleep "$seconds"
  if [[ -n $typed ]]; then
    printf '%b' "$typed" | while IFS= read -r line; do
      xdotool type --delay 8 -- "$line"
      xdotool key Return
      sleep 0.3
    done
  fi
  sleep 0.5
  import -window root "$out/$name.png"
  kill "$terminal" 2>/dev/null || true
  wait "$terminal" 2>/dev/null || true
}

# drawn NAME: the railroad diagrams of a sort as a picture.
drawn() {
  [[ ${#wanted[@]} -eq 0 || " ${wanted[*]} " == *" $1 "* ]] || return 0
  (cd "$work/towpath" && quillon grammar --as svg --sort Statement) | rsvg-convert -o "$out/$1.png"
}

wanted=("$@")
cat >"$work/towpath/busy.tow" <<'PROGRAM'
~ A long day at the flight: boats of all draughts, put in order, and their tolls.
let seed be 7
way draught() {
  change seed to (seed * 1103515245 + 12345) % 2147483648
  answer seed % 1000
}
way sort(boats, low, high) {
  when low >= high { answer nothing }
  let middle be boats#((low + high) // 2)
  let i be low
  let j be high
  while i <= j {
    while boats#i < middle { change i to i + 1 }
    while boats#j > middle { change j to j - 1 }
    when i <= j {
      let held be boats#i
      change boats#i to boats#j
      change boats#j to held
      change i to i + 1
      change j to j - 1
    }
  }
  do sort(boats, low, j)
  do sort(boats, i, high)
}
way toll(tons) {
  when tons < 10 { answer 5 }
  answer toll(tons // 2) + toll(tons // 3)
}
let boats be []
count n from 1 to 4000 { do add(boats, draught()) }
do sort(boats, 1, 4000)
let sum be 0
each boat in boats { change sum to sum + toll(boat) }
say sum
PROGRAM
cat >"$work/towpath/wrong.tow" <<'PROGRAM'
let levels be [3, 5, 2]
way lift(level {
  answer level + 2
}
PROGRAM
cat >"$work/towpath/unbound.tow" <<'PROGRAM'
let level be 3
while level < 5 {
  change levle to level + 1
  let water be level * 2
}
say water
PROGRAM
cat >"$work/towpath/fails.tow" <<'PROGRAM'
way toll(boat) { answer boat.tons * "4" }
each boat in [[name: "Heron", tons: 18]] {
  say boat.name, toll(boat)
}
PROGRAM
sed -e 's/gives 6$/gives 7/' -e 's/means    left \* right/means    left + right/' \
  "$work/towpath/towpath.quillon" >"$work/towpath/other.quillon.txt"
shot demo 'quillon demo' '\n\n'
shot check 'quillon check'
drawn diagrams
shot tokens 'quillon tokens --text "let level be 2.5 ~ metres" --all; quillon tokens programs/tolls.tow | head -30'
shot tree 'quillon tree --as line --text "let toll be 4 * (2 + tons)"; quillon tree --text "let toll be 4 * (2 + tons)"; quillon tree --text "when level > 3 { stop }"'
cat >"$work/mygauge/fare.mygauge" <<'PROGRAM'
def toll = \(tons, rate) tons * rate + 0.5;
def name = "Heron";
tell toll(12, 2);
toll(name, 2)
PROGRAM
shot types 'cd ../mygauge; quillon types fare.mygauge; quillon types --why 1:31 fare.mygauge 2>/dev/null'
shot steps 'cd ../mysluice; quillon steps --text "store add = gate a { gate b { a + b } } in add <- (2 * 3) <- 4"'
shot scopes 'quillon scopes programs/filling.tow; quillon scopes --as table --text "let a be 1 say way (b) gives a + b"'
shot run 'quillon run programs/tolls.tow programs/filling.tow programs/flight.tow'
shot errors 'quillon run wrong.tow; quillon run unbound.tow; quillon run fails.tow'
shot trace 'quillon trace programs/filling.tow --fold 6 --to 60'
shot walk 'quillon walk programs/flight.tow' 'ncall shown_lock\nwlength(through)\nggggggg\np\n'
shot code 'quillon code --lines --text "way toll(tons) { when tons > 20 { answer tons * 3 } answer tons } say toll(24) + toll(12)"'
shot profile 'quillon --color always profile busy.tow </dev/null | head -41'
shot explain 'quillon explain programs/flight.tow:15:39; quillon scopes --as table programs/filling.tow | head -24'
shot test 'mv other.quillon.txt towpath.quillon; quillon test'
(cd "$work" && rm -rf towpath && quillon demo --save towpath >/dev/null)
# An editor with the package that is made for it; what it shows comes from the server.
quillon equip "$work/towpath/towpath.quillon" --for neovim --into "$work/package" >/dev/null
cat >"$work/init.lua" <<'LUA'
vim.lsp.start = vim.lsp.start or function(options) -- before Neovim 0.8
  local id = vim.lsp.start_client(options)
  vim.lsp.buf_attach_client(0, id)
  return id
end
vim.opt.runtimepath:append(vim.env.PACKAGE)
vim.opt.termguicolors, vim.opt.number, vim.opt.signcolumn, vim.opt.swapfile = true, true, 'yes', false
vim.cmd('filetype plugin on | syntax on | colorscheme slate')
vim.defer_fn(function() vim.lsp.codelens.refresh() end, 2500)
vim.defer_fn(function() vim.cmd('below split towpath.quillon | 61 | normal zt') end, 300)
vim.defer_fn(function() vim.lsp.codelens.refresh() end, 5000)
LUA
cat >"$work/towpath/night.tow" <<'PROGRAM'
~ The night's boats, and what they owe.
way toll(boat, rate) {
  let owed be boat.tons * rate
  when owed > 40 { change owed to 40 }
  answer owed
}
let boats be [[name: "Heron", tons: 18], [name: "Wren", tons: 7]]
let forgotten be 0
each boat in boats {
  say boat.name, toll(boat, 3)
}
say toll(boats#1, 2) + tol(boats#2, 2)
PROGRAM
PACKAGE=$work/package shot editor "nvim -u $work/init.lua night.tow" '' 8
sed -e 's/  left    Times, Divided, Over, Left/  right   Times, Divided, Over, Left/' \
  "$work/towpath/towpath.quillon" >"$work/towpath/new.quillon.txt"
shot compare 'quillon compare towpath.quillon new.quillon.txt'
(cd "$work" && rm -rf towpath && quillon demo --save towpath >/dev/null)
shot repl 'quillon repl' '\nlet boats be [name: "Heron", tons: 18]\nway toll(boat) {\nwhen boat.tons > 10 { answer boat.tons * 4 }\nanswer 5\n}\n/also time\ntoll(boats)\nboats.length\ntoll(boats) + 1\n/keep a heavy boat pays\n/tree 1 + 2 * 3\n/undo\n/names\nlet all be [1, (2 + 3'
