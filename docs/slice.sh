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

WISH="\"environment\":\"$NAME\",\"template\":\"shared-office\",\"site\":\"TF\",\"people\":8,\"profile\":\"standard\""
PROPOSED=$(post /customers/HSB/proposals propose "{$WISH}")
echo "proposed: $(echo "$PROPOSED" | field 'proposal.hosts.map(h=>h.name).join(" ")')"
STAMP=$(echo "$PROPOSED" | field stamp)
MADE=$(post /customers/HSB/environments make "{$WISH,\"stamp\":\"$STAMP\",\"reason\":\"by script\"}")
RUN=$(echo "$MADE" | field run)
ENV=$(echo "$MADE" | field environment)
ended "$RUN"
echo "provisioned: $(get "/customers/HSB/environments/$ENV/hosts" | field 'entries.map(h=>h.name+" "+h.standing).join(", ")')"
echo "cost so far: $(get /customers/HSB/costs | field 'total.minor') minor units, $(get /customers/HSB/charges.csv | wc -l) lines of CSV"
RUN=$(post "/customers/HSB/environments/$ENV/retirement" retire '{"code":"HSB","reason":"over"}' | field run)
ended "$RUN"
echo "proof: clean $(get "/customers/HSB/environments/$ENV/proof" | field clean), $(get "/customers/HSB/environments/$ENV/proof" | field 'rows.map(r=>r.kind+" "+r.says).join(", ")')"
echo "trail: $(get '/customers/HSB/trail?limit=4' | field 'entries.map(e=>e.action).join(", ")')"
