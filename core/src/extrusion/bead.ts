/**
 * Cross-section of a laid bead: a rectangle with half-round ends. Plain geometry.
 * @param width mm, at least the height
 * @param height mm
 * @returns mm²
 * @throws RangeError when a size is not positive
 */
export function beadArea(width: number, height: number): number {
  if (!(width > 0) || !(height > 0))
    throw new RangeError(`bead of width ${width} mm and height ${height} mm has no area`)
  if (width <= height) return (Math.PI / 4) * width * height // squashed less than round: an ellipse
  return (width - height) * height + (Math.PI / 4) * height * height
}

/**
 * Width of the bead that has the given area at the given height; the inverse of {@link beadArea}.
 * @param area mm²
 * @param height mm
 * @returns mm
 */
export function beadWidth(area: number, height: number): number {
  const wide = (area - (Math.PI / 4) * height * height) / height + height
  return wide > height ? wide : (4 * area) / (Math.PI * height)
}

/**
 * Distance between the centre lines of neighbouring beads that fill a layer solidly: w − h(1 − π/4).
 * Follows from equating the bead area with spacing × height.
 */
export function solidSpacing(width: number, height: number): number {
  return width - height * (1 - Math.PI / 4)
}

/** Width of the line whose neighbours lie `spacing` mm away in a solidly filled layer; the inverse of {@link solidSpacing}. */
export function widthAtSpacing(spacing: number, height: number): number {
  return spacing + height * (1 - Math.PI / 4)
}

/** Cross-section of round filament, mm², from its diameter in mm. */
export function filamentArea(diameter: number): number {
  return (Math.PI / 4) * diameter * diameter
}

/**
 * Filament fed per millimetre of path (mm of filament per mm of travel).
 * @param flow multiplier, 1 = 100 %
 */
export function feedPerMillimetre(width: number, height: number, diameter: number, flow = 1): number {
  return (beadArea(width, height) * flow) / filamentArea(diameter)
}

/** Melt rate in mm³/s of a bead laid at `speed` mm/s. */
export function meltRate(width: number, height: number, speed: number, flow = 1): number {
  return beadArea(width, height) * speed * flow
}

/** Fastest head speed, mm/s, that keeps the bead within `cap` mm³/s. */
export function speedAtMeltCap(width: number, height: number, cap: number, flow = 1): number {
  return cap / (beadArea(width, height) * flow)
}

/** Mass in grams of `length` mm of filament. Density in g/cm³. */
export function filamentMass(length: number, diameter: number, density: number): number {
  return (length * filamentArea(diameter) * density) / 1000
}

/** Length in mm of `mass` grams of filament. Density in g/cm³. */
export function filamentLength(mass: number, diameter: number, density: number): number {
  return (mass * 1000) / (filamentArea(diameter) * density)
}
