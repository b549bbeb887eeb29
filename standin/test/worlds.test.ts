import { DEMO_MACHINES } from '@verimend/core/demo'
import { FAMILIES } from '@verimend/core/material'
import { broken, drawnWorld, hideable, soundWorld, upgradedWorld, type World } from '../src'

const { shed: machine } = DEMO_MACHINES

test('a world that was kept before a property was there is as it was, and sound in what it did not have', () => {
  for (const seed of [1, 2, 3]) {
    const world = broken(drawnWorld(machine, 'petg', seed), machine, seed, ['screw'])
    const kept = JSON.parse(JSON.stringify(world)) as World
    const { belt: _, ...older } = kept.frame
    const upgraded = upgradedWorld({ ...kept, frame: older as World['frame'] }, machine)
    expect(upgraded.frame.belt).toEqual(soundWorld(machine, 'petg', seed).frame.belt)
    expect({ ...upgraded.frame, belt: null }).toEqual({ ...kept.frame, belt: null })
    expect({ ...upgraded, frame: null }).toEqual({ ...kept, frame: null })
    // one that has everything is not touched
    expect(upgradedWorld(kept, machine)).toEqual(kept)
  }
})

test('laws of drawn worlds: the same seed the same world; what is hidden changes it, and only things that can be hidden there', () => {
  for (const family of FAMILIES.slice(0, 6)) {
    const world = drawnWorld(machine, family, 9)
    expect(drawnWorld(machine, family, 9)).toEqual(world)
    expect(drawnWorld(machine, family, 10)).not.toEqual(world)
    for (const id of hideable(machine, family)) {
      const worse = broken(world, machine, 9, [id])
      expect(worse).not.toEqual(world)
      expect(broken(world, machine, 9, [id])).toEqual(worse)
    }
  }
})
