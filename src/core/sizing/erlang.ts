/**
 * The part of arrivals that find every server taken and go away: Erlang's B formula, by its recursion, which holds for
 * thousands of servers.
 * @param servers from 0
 * @param load offered, in erlangs: arrivals a unit of time × how long each takes; from 0
 * @example
 * blocking(1, 1) // 0.5
 */
export function blocking(servers: number, load: number): number {
  if (load <= 0) return servers > 0 ? 0 : 1;
  let inverse = 1;
  for (let n = 1; n <= servers; n++) inverse = 1 + (inverse * n) / load;
  return 1 / inverse;
}

/**
 * How many seats are kept ready, so that someone who arrives has to wait for a host to boot with a probability of at most
 * `most`. While one boots, its seats are not there: so arrivals in that time find the ready ones, or none.
 * @param arrivalsAnHour from 0
 * @param bootMinutes from 0
 * @param most above 0, below 1
 * @example
 * spareSeats(60, 4, 0.01) // 10
 */
export function spareSeats(arrivalsAnHour: number, bootMinutes: number, most: number): number {
  const load = (arrivalsAnHour * bootMinutes) / 60;
  if (!(load > 0) || !(most > 0)) return 0;
  let inverse = 1;
  let seats = 0;
  while (1 / inverse > most) {
    seats++;
    inverse = 1 + (inverse * seats) / load;
  }
  return seats;
}
