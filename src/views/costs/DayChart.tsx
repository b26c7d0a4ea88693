import type { MonthCosts } from '../../contract';
import { Bar, BarChart, CartesianGrid, Cell, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { writeMoney } from '../../client/format';

interface Props {
  readonly days: MonthCosts['days'];
  readonly digits: number;
  readonly currency: string;
}

/** What each day cost; the day that is not over is lighter. */
export function DayChart({ days, digits, currency }: Props) {
  const data = days.map((day) => ({
    day: Number(day.date.slice(8)),
    cost: day.cost.minor,
    whole: day.whole,
  }));
  const write = (minor: number): string => writeMoney({ minor, currency });
  return (
    <div
      role="img"
      aria-label={`Cost of each day, from ${days[0]?.date ?? ''} to ${days.at(-1)?.date ?? ''}`}
      style={{ height: 210 }}
    >
      <ResponsiveContainer width="100%" height="100%">
        <BarChart data={data} margin={{ top: 6, right: 4, bottom: 0, left: 4 }}>
          <CartesianGrid vertical={false} stroke="var(--line)" />
          <XAxis
            dataKey="day"
            tickLine={false}
            axisLine={{ stroke: 'var(--line-2)' }}
            tick={{ fill: 'var(--ink-3)', fontSize: 12.5 }}
          />
          <YAxis
            width={64}
            tickLine={false}
            axisLine={false}
            tick={{ fill: 'var(--ink-3)', fontSize: 12.5 }}
            tickFormatter={(minor: number) =>
              write(Math.round(minor / 10 ** digits) * 10 ** digits).replace(/[.,]00$/, '')
            }
          />
          <Tooltip
            cursor={{ fill: 'var(--sunk)' }}
            formatter={(value) => [write(Number(value)), 'cost']}
            labelFormatter={(day) => days[Number(day) - 1]?.date ?? String(day)}
            contentStyle={{ background: 'var(--sheet)', border: '1px solid var(--line-2)', borderRadius: 6 }}
          />
          <Bar dataKey="cost" isAnimationActive={false} radius={[3, 3, 0, 0]}>
            {data.map((one) => (
              <Cell key={one.day} fill={one.whole ? 'var(--serving)' : 'var(--serving-soft)'} />
            ))}
          </Bar>
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}
