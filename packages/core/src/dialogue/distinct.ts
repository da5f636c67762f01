/**
 * How far from chance it is that something is said more often in one text than in another: the log-likelihood ratio, twice the natural
 * logarithm, after T. Dunning, Accurate Methods for the Statistics of Surprise and Coincidence (Computational Linguistics 19, 1993).
 * Distributed as chi-square with one degree of freedom. Negative where it is said less often.
 * @param count how often it is said in `total`
 * @param otherCount how often in `otherTotal`
 */
export function distinctness(count: number, total: number, otherCount: number, otherTotal: number): number {
  const share = (count + otherCount) / (total + otherTotal);
  const ratio =
    2 *
    (logLikelihood(count, total, count / total) +
      logLikelihood(otherCount, otherTotal, otherCount / otherTotal) -
      logLikelihood(count, total, share) -
      logLikelihood(otherCount, otherTotal, share));
  return count / total >= otherCount / otherTotal ? Math.max(0, ratio) : Math.min(0, -ratio);
}

/** Of a binomial distribution, without what cancels out. */
function logLikelihood(count: number, total: number, share: number): number {
  const said = count === 0 ? 0 : count * Math.log(share);
  return said + (count === total ? 0 : (total - count) * Math.log(1 - share));
}

/** The least that chance brings once in a hundred times: the chi-square table, one degree of freedom, .01. */
export const DISTINCT = 6.635;

/**
 * How closely two things go together, from -1 (never) over 0 (by chance) to 1 (never without each other): normalized pointwise mutual
 * information, after G. Bouma, Normalized (Pointwise) Mutual Information in Collocation Extraction (GSCL 2009).
 */
export function togetherness(both: number, one: number, other: number, all: number): number {
  if (both === 0) return -1;
  if (both === all) return 1;
  return Math.log((both * all) / (one * other)) / -Math.log(both / all);
}
