#!/bin/sh
# The whole slice through the API alone: sh docs/slice.sh ADDRESS TOKEN. Needs curl and node (to read JSON).
set -eu
A="$1/api/v1"
H="authorization: Bearer $2"
J='content-type: application/json'
NAME="api$(date +%s | tail -c 5)"
field() { node -e "const a=JSON.parse(require('fs').readFileSync(0,'utf8'));console.log(String(eval('a.'+process.argv[1])))" "$1"; }
get() { curl -sS --fail-with-body -H "$H" "$A$1"; }
post() { curl -sS --fail-with-body -H "$H" -H "$J" -H "Idempotency-Key: $NAME-$2" "$A$1" -d "$3"; }
ended() { until [ "$(get "/customers/HSB/runs/$1" | field state)" = done ]; do sleep 1; done; }

# A change is proposed, and begun with the fingerprint of what was seen: change PLACE KIND INPUT [MORE]
change() {
  FINGERPRINT=$(post "$1/changes/$2/proposal" "propose-$2" "{\"input\":$3}" | field fingerprint)
  post "$1/changes/$2" "$2" "{\"input\":$3,\"fingerprint\":\"$FINGERPRINT\",\"reason\":\"by script\"${4:-}}"
}

WISH="{\"environment\":\"$NAME\",\"template\":\"shared-office\",\"site\":\"KQ\",\"people\":8}"
PROPOSED=$(post /customers/HSB/changes/provision/proposal look "{\"input\":$WISH}")
echo "proposed: $(echo "$PROPOSED" | field 'proposal.tasks.filter(t=>t.kind=="host").map(t=>t.name).join(" ")')"
MADE=$(change /customers/HSB provision "$WISH")
RUN=$(echo "$MADE" | field run)
ENV=$(echo "$MADE" | field environment)
ended "$RUN"
# The provider's record is read by and by: then its hosts are seen to be there.
HOSTS="/customers/HSB/environments/$ENV/hosts"
until [ "$(get "$HOSTS" | field 'entries.every(h=>h.status!=="missing")')" = true ]; do sleep 1; done
echo "provisioned: $(get "$HOSTS" | field 'entries.map(h=>h.name+" "+h.status).join(", ")')"
echo "cost so far: $(get /customers/HSB/costs | field 'total.minor') minor units, $(get /customers/HSB/charges.csv | wc -l) lines of CSV"
RUN=$(change "/customers/HSB/environments/$ENV" retire '{}' ',"code":"HSB"' | field run)
ended "$RUN"
echo "proof: clean $(get "/customers/HSB/environments/$ENV/proof" | field clean), $(get "/customers/HSB/environments/$ENV/proof" | field 'rows.map(r=>r.kind+" "+r.says).join(", ")')"
echo "trail: $(get '/customers/HSB/trail?limit=4' | field 'entries.map(e=>e.action).join(", ")')"
