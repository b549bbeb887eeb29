declare module 'jstat' {
  interface Distribution {
    inv(p: number, ...parameters: number[]): number
    cdf(x: number, ...parameters: number[]): number
  }
  export const jStat: {
    studentt: Distribution
    chisquare: { cdf(x: number, dof: number): number }
    centralF: Distribution
    normal: Distribution
    chisquare: Distribution
  }
  const all: { jStat: typeof jStat }
  export default all
}
