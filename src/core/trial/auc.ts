/**
 * Area under the ROC curve: how often somebody of whom it is true has a higher score than somebody of whom it is not; of a tie,
 * half. Source: the rank statistic of Mann and Whitney.
 */

/** How often each row stands in a draw; once where it is not said. */
export type Weights = ArrayLike<number>;

/**
 * Opens the area of some scores, to be asked for over and over with rows that count more than once or not at all: put in
 * order once, each asking goes through them once. Null where there is only one kind.
 *
 * @example openAuc([3, 1, 2], [true, false, false])() // 1
 */
export function openAuc(scores: readonly number[], isTrue: readonly boolean[]): (weights?: Weights) => number | null {
  const order = scores.map((_, row) => row).sort((a, b) => scores[a] - scores[b]);
  return (weights) => {
    let [trues, falses, right] = [0, 0, 0];
    for (let i = 0; i < order.length;) {
      const score = scores[order[i]];
      let [trueHere, falseHere] = [0, 0];
      for (; i < order.length && scores[order[i]] === score; i += 1) {
        const weight = weights === undefined ? 1 : weights[order[i]];
        if (isTrue[order[i]]) trueHere += weight;
        else falseHere += weight;
      }
      right += trueHere * (falses + falseHere / 2);
      trues += trueHere;
      falses += falseHere;
    }
    return trues === 0 || falses === 0 ? null : right / (trues * falses);
  };
}
