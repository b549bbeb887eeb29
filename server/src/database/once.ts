import { UniqueConstraintError } from 'sequelize'

/**
 * Makes something once: the same request again, after a lost answer or at the same moment, gets what is there.
 * @throws whatever `make` throws, unless another was quicker
 */
export async function once<R>(known: () => Promise<R | null>, make: () => Promise<R>): Promise<R> {
  const there = await known()
  if (there) return there
  try {
    return await make()
  } catch (error) {
    if (!(error instanceof UniqueConstraintError)) throw error
    const other = await known()
    if (!other) throw error
    return other
  }
}
