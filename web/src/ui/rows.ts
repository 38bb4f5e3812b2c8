// Bars of a lane that overlap lie below each other: a pure function of their times.

type Timed = { from: string; to: string };

/** The row of each bar, from 0, none on another of its row; and how many rows there are. */
export function rowsOf(bars: Timed[]): { rows: number[]; count: number } {
  const ends: number[] = [];
  const rows = bars.map((b) => {
    const from = new Date(b.from).getTime();
    let row = ends.findIndex((end) => end <= from);
    if (row < 0) row = ends.length;
    ends[row] = new Date(b.to).getTime();
    return row;
  });
  return { rows, count: Math.max(1, ends.length) };
}
