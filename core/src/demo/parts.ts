import { scoped, type Kernel, type Solid } from '../geometry/kernel'

/** Parts of the garden's repair table, as solids; each to be given back with `delete()`. */
export const DEMO_PARTS: readonly { name: string; file: string; make: (k: Kernel) => Solid }[] = [
  { name: 'Vent hinge', file: 'vent-hinge.stl', make: ventHinge },
  { name: 'Sensor hood', file: 'sensor-hood.stl', make: sensorHood },
  { name: 'Hose coupling', file: 'hose-coupling.stl', make: hoseCoupling },
  { name: 'Seed-tray label', file: 'seed-tray-label.stl', make: seedTrayLabel },
]

/** Two leaves that are printed joined: a pin in the knuckle of the other leaf, 0.3 mm of air round it. */
function ventHinge({ Manifold }: Kernel): Solid {
  const [leaf, depth, thick, knuckle, pin, gap] = [26, 40, 4, 4.2, 2, 0.3]
  return scoped((keep) => {
    const along = (s: Solid, y: number) => keep(keep(s.rotate([-90, 0, 0])).translate([0, y, knuckle]))
    const rod = (radius: number, length: number) => keep(Manifold.cylinder(length, radius, radius, 64))
    const third = (depth - 4 * gap) / 3
    const foot = (length: number) => keep(Manifold.cube([2 * knuckle, length, knuckle]))
    const barrel = (y: number, length: number) =>
      keep(along(rod(knuckle, length), y).add(keep(foot(length).translate([-knuckle, y, 0]))))
    const plate = (x: number) => keep(keep(Manifold.cube([leaf, depth, thick])).translate([x, 0, 0]))
    const screws = (x: number) => [9, depth - 9].map((y) => keep(rod(2.2, 10).translate([x, y, -1])))
    const clear = keep(
      keep(Manifold.cube([2 * knuckle + 2 * gap, third + 2 * gap, 3 * knuckle])).translate([
        -knuckle - gap,
        third + gap,
        -1,
      ]),
    )
    const outer = keep(
      keep(plate(-knuckle - gap - leaf).add(barrel(0, third))).add(barrel(depth - third, third)),
    )
    const arm = (y: number) =>
      keep(keep(Manifold.cube([gap + 1, third, thick])).translate([-knuckle - gap - 0.5, y, 0]))
    const first = keep(
      keep(keep(keep(outer.add(arm(0))).add(arm(depth - third))).subtract(clear)).add(
        along(rod(pin, depth), 0),
      ),
    )
    const middle = keep(
      keep(barrel(third + 2 * gap, third).add(plate(knuckle + gap))).add(
        keep(keep(Manifold.cube([gap + 1, third, thick])).translate([knuckle - 0.5, third + 2 * gap, 0])),
      ),
    )
    const second = keep(middle.subtract(along(rod(pin + gap, depth + 2), -1)))
    const both = keep(first.add(second))
    return both.subtract(
      keep(Manifold.union([...screws(-knuckle - gap - leaf / 2), ...screws(knuckle + gap + leaf / 2)])),
    )
  })
}

/** A tall hood with a sloping roof and louvres, open below. */
function sensorHood({ Manifold, CrossSection }: Kernel): Solid {
  return scoped((keep) => {
    const [w, h, roof, wall] = [46, 70, 22, 1.6]
    const body = (inset: number) =>
      keep(
        keep(
          keep(
            new CrossSection([
              [
                [inset, inset],
                [w - inset, inset],
                [w - inset, h - inset],
                [w / 2, h + roof - 1.4 * inset],
                [inset, h - inset],
              ],
            ]),
          ).extrude(w - 2 * inset),
        )
          .rotate([90, 0, 0])
          .translate([0, w - inset, 0]),
      )
    const inside = keep(body(wall).translate([0, 0, -2 * wall]))
    const louvres = [14, 26, 38, 50].map((z) =>
      keep(keep(Manifold.cube([w - 14, 3 * wall, 4])).translate([7, -wall, z])),
    )
    const flange = keep(
      keep(Manifold.cube([w + 16, 10, 3]))
        .translate([-8, w - 10, 0])
        .subtract(keep(keep(Manifold.cube([w - 2 * wall, 20, 8])).translate([wall, w - 12, -1]))),
    )
    const shell = keep(keep(body(0).subtract(inside)).subtract(keep(Manifold.union(louvres))))
    return shell.add(flange)
  })
}

/** A coupling for two hoses: barbs to both sides of a collar. */
function hoseCoupling({ CrossSection }: Kernel): Solid {
  return scoped((keep) => {
    const half: [number, number][] = [
      [9.5, 0],
      [6.5, 0],
      [6.5, -24],
      [7.4, -24],
      [8.6, -20],
      [7.6, -20],
      [8.8, -13],
      [7.6, -13],
      [8.8, -6],
      [8, -6],
      [8, -3],
      [9.5, -3],
    ]
    const mirrored = half.map(([x, y]): [number, number] => [x, -y]).reverse()
    const profile = keep(
      keep(new CrossSection([half], 'NonZero')).add(keep(new CrossSection([mirrored], 'NonZero'))),
    )
    return profile.revolve(96)
  })
}

/** A label on a stake, with bars raised for letters. */
function seedTrayLabel({ Manifold, CrossSection }: Kernel): Solid {
  return scoped((keep) => {
    const plate = keep(keep(Manifold.cube([60, 22, 1.8])).translate([0, 0, 0]))
    const stake = keep(
      keep(
        new CrossSection(
          [
            [
              [24, 0],
              [36, 0],
              [31, -58],
              [29, -58],
            ],
          ],
          'NonZero',
        ),
      ).extrude(1.8),
    )
    const bars = [6, 13, 20, 30, 37, 46].map((x, i) =>
      keep(keep(Manifold.cube([i % 3 ? 4 : 2, i % 2 ? 12 : 8, 1])).translate([x, 5, 1.8])),
    )
    return keep(plate.add(stake)).add(keep(Manifold.union(bars)))
  })
}
