import type { DiameterReading } from '@verimend/core/material'
import { typedPlace } from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { TypedList } from './NumberList'

/** Thinnest and thickest filament there is, mm. */
const LEAST = 1
const MOST = 3.2
const held = (v: number) => v >= LEAST && v <= MOST

/** Diameters along a filament, each place one way across or both. */
export function PlaceList({
  values,
  onChange,
}: {
  values: readonly DiameterReading[]
  onChange: (values: DiameterReading[]) => void
}) {
  return (
    <TypedList
      label="Diameter at a place"
      unit="mm"
      values={values}
      most={40}
      hint="1.74/1.76"
      read={(text) => {
        const place = typedPlace(text)
        return place && held(place.a) && held(place.b ?? place.a) ? place : null
      }}
      show={({ a, b }) => (b === null ? figure(a, 2) : `${figure(a, 2)} / ${figure(b, 2)}`)}
      fault={(text) => `“${text}” is no diameter: 1.75, or 1.74/1.76 for both ways across.`}
      onChange={onChange}
    />
  )
}
