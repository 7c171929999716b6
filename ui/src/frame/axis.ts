/**
 * The room in pixels that the labels of a value axis need, so that none is cut: the axis ends at a
 * round number somewhat above the largest value.
 */
export const labelRoom = (values: number[]) => 18 + Math.round(Math.max(1, ...values.map(Math.abs)) * 1.25).toLocaleString("en-US").length * 7.3;
