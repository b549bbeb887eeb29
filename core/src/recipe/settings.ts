/**
 * The one list of settings. Tables, validation, comparison, import and export are read from it:
 * adding a setting is adding an entry here and, where it can be derived, a line in `derive.ts`.
 */
export const GROUPS = [
  { id: 'temperature', label: 'Temperatures' },
  { id: 'filament', label: 'Filament and flow' },
  { id: 'first-layer', label: 'First layer' },
  { id: 'retraction', label: 'Retraction and pressure' },
  { id: 'cooling', label: 'Cooling' },
  { id: 'walls', label: 'Layers and walls' },
  { id: 'speed', label: 'Speeds' },
  { id: 'grip', label: 'Grip on the bed' },
  { id: 'size', label: 'Size' },
] as const
export type GroupId = (typeof GROUPS)[number]['id']

interface Common {
  label: string
  group: GroupId
  /** What the setting does, one sentence. */
  what: string
  /** What more and less of it bring; empty for choices. */
  up?: string
  down?: string
  /** The setting only matters while another one has this value. */
  when?: { key: string; is: SettingValue | 'above-zero' }
}
export interface NumberSetting extends Common {
  kind: 'number'
  unit: string
  min: number
  max: number
  /** Rounding step; also what the arrow keys move by. */
  step: number
  /** What a share of this value is shown against: the nozzle's diameter or another setting. */
  shareOf?: 'nozzle-diameter' | string
  /** For values that are themselves percentages: what 100 % is. */
  percentOf?: string
}
export interface SwitchSetting extends Common {
  kind: 'switch'
}
export interface ChoiceSetting extends Common {
  kind: 'choice'
  choices: { value: string; label: string }[]
}
export type Setting = NumberSetting | SwitchSetting | ChoiceSetting
export type SettingValue = number | boolean | string

type Extra = Partial<Omit<NumberSetting, 'kind' | 'label' | 'group' | 'unit' | 'min' | 'max' | 'step'>>
const number =
  (group: GroupId) =>
  (
    label: string,
    unit: string,
    min: number,
    max: number,
    step: number,
    what: string,
    extra: Extra = {},
  ): NumberSetting => ({ kind: 'number', label, group, unit, min, max, step, what, ...extra })
const toggle = (group: GroupId, label: string, what: string): SwitchSetting => ({
  kind: 'switch',
  label,
  group,
  what,
})

const temperature = number('temperature')
const filament = number('filament')
const retraction = number('retraction')
const cooling = number('cooling')
const first = number('first-layer')
const grip = number('grip')
const walls = number('walls')
const speed = number('speed')
const size = number('size')
const whenOn = (key: string) => ({ when: { key, is: true } })
const whenSome = (key: string) => ({ when: { key, is: 'above-zero' as const } })
const ofFlow = { percentOf: 'the overall flow' }
const ofFan = { percentOf: "the fan's full speed" }

export const SETTINGS = {
  nozzleFirst: temperature(
    'Nozzle, first layer',
    '°C',
    150,
    350,
    1,
    'Heat of the nozzle while the first layer goes down.',
    {
      up: 'better grip on the bed',
      down: 'less ooze while travelling',
    },
  ),
  nozzle: temperature('Nozzle', '°C', 150, 350, 1, 'Heat of the nozzle from the second layer on.', {
    up: 'stronger bond between layers, more strings',
    down: 'cleaner travels, weaker bond, duller face',
  }),
  bedFirst: temperature(
    'Bed, first layer',
    '°C',
    0,
    140,
    1,
    'Heat of the bed while the first layer goes down.',
    {
      up: 'better grip',
      down: 'less flare at the base',
    },
  ),
  bed: temperature('Bed', '°C', 0, 140, 1, 'Heat of the bed from the second layer on.', {
    up: 'corners stay down',
    down: 'base keeps its shape',
  }),
  chamber: temperature(
    'Chamber',
    '°C',
    0,
    90,
    1,
    'Heat of the air around the part; 0 where the machine has no heater for it.',
    {
      up: 'less stress in big parts',
      down: 'crisper small details',
    },
  ),

  diameter: filament('Filament diameter', 'mm', 1, 3.2, 0.01, 'Mean diameter the feed is computed from.', {
    up: 'less is fed',
    down: 'more is fed',
  }),
  density: filament('Filament density', 'g/cm³', 0.5, 4, 0.01, 'Turns length into grams.'),
  meltCap: filament(
    'Melt rate cap',
    'mm³/s',
    0.2,
    60,
    0.1,
    'The most this hot end melts of this plastic; every speed is held under it.',
    { up: 'faster lines', down: 'no starved lines' },
  ),
  flow: filament('Flow, overall', '%', 70, 130, 0.5, 'Scales everything that is fed.', {
    percentOf: 'the computed feed',
    up: 'closes gaps everywhere, walls grow',
    down: 'walls thin out, gaps open',
  }),
  flowFirst: filament('Flow, first layer', '%', 70, 150, 0.5, 'Scales the feed of the first layer only.', {
    ...ofFlow,
    up: 'fills gaps at the base, flares the edge',
    down: 'less flare',
  }),
  flowOuter: filament('Flow, outer wall', '%', 80, 120, 0.5, 'Scales the feed of the outer wall only.', {
    ...ofFlow,
    up: 'fuller face',
    down: 'smoother seam',
  }),
  flowInner: filament(
    'Flow, inner walls',
    '%',
    80,
    120,
    0.5,
    'Scales the feed of the inner walls only.',
    ofFlow,
  ),
  flowSolid: filament(
    'Flow, solid fill',
    '%',
    80,
    120,
    0.5,
    'Scales the feed of tops, bottoms and solid layers.',
    {
      ...ofFlow,
      up: 'closes gaps in solid fill',
      down: 'smoother top',
    },
  ),
  flowSparse: filament('Flow, sparse fill', '%', 80, 120, 0.5, 'Scales the feed of sparse infill.', ofFlow),
  flowOverRaft: filament(
    'Flow over a raft',
    '%',
    60,
    120,
    0.5,
    'Scales the feed of the part’s first layer where it lies on a raft.',
    { ...whenOn('raft'), ...ofFlow },
  ),
  flowBridge: filament('Flow, bridges', '%', 60, 130, 0.5, 'Scales the feed of lines laid over air.', ofFlow),

  retract: toggle('retraction', 'Retraction', 'Pulls filament back before a travel.'),
  retractLength: retraction('Retraction length', 'mm', 0, 12, 0.1, 'How far the filament is pulled back.', {
    ...whenOn('retract'),
    up: 'fewer strings, more grinding',
    down: 'gentler on the filament',
  }),
  retractSpeed: retraction(
    'Retraction speed',
    'mm/s',
    5,
    120,
    1,
    'How fast the filament is pulled back.',
    whenOn('retract'),
  ),
  restartExtra: retraction(
    'Restart extra',
    'mm',
    -0.5,
    0.5,
    0.01,
    'Fed beyond the pull-back when a path starts again.',
    {
      ...whenOn('retract'),
      up: 'fills starved starts',
      down: 'flattens fat starts',
    },
  ),
  zLift: retraction('Z-lift', 'mm', 0, 2, 0.05, 'Raises the nozzle during a retracted travel.', {
    ...whenOn('retract'),
    up: 'clears curled edges',
    down: 'shorter travels, fewer hairs',
  }),
  minTravel: retraction(
    'Shortest travel with retraction',
    'mm',
    0,
    20,
    0.1,
    'Travels shorter than this are made without a pull-back.',
    {
      ...whenOn('retract'),
      up: 'fewer pulls',
      down: 'cleaner short hops',
    },
  ),
  wipe: retraction(
    'Wipe',
    'mm',
    0,
    5,
    0.05,
    'Distance the nozzle moves on along the loop after it stops feeding.',
    {
      shareOf: 'nozzle-diameter',
      up: 'smaller blob where a loop closes',
      down: 'fuller loop ends',
    },
  ),
  earlyStop: retraction(
    'Early stop',
    'mm³',
    0,
    0.5,
    0.005,
    'Volume left out at the end of a loop so that the pressure empties into it.',
    {
      up: 'smaller blob',
      down: 'no notch',
    },
  ),
  pressureCompensation: retraction(
    'Pressure compensation',
    's',
    0,
    2,
    0.005,
    "The firmware's feed advance; 0 is off.",
    {
      up: 'sharper corners',
      down: 'fuller line starts',
    },
  ),

  fanOffLayers: cooling(
    'Layers without fan',
    'layers',
    0,
    20,
    1,
    'Layers at the base that are laid with the fan off.',
    {
      up: 'better grip',
      down: 'crisper base',
    },
  ),
  fanRampLayers: cooling('Fan ramp', 'layers', 0, 20, 1, 'Layers over which the fan rises to its full duty.'),
  fan: cooling('Fan', '%', 0, 100, 5, 'Part fan after the first layers.', {
    ...ofFan,
    up: 'sharper overhangs, weaker bond',
    down: 'stronger layers, more gloss',
  }),
  fanOverhang: cooling('Fan on overhangs', '%', 0, 100, 5, 'Part fan while an overhang is laid.', ofFan),
  fanBridge: cooling('Fan on bridges', '%', 0, 100, 5, 'Part fan while a bridge is laid.', ofFan),
  minLayerTime: cooling('Minimum layer time', 's', 0, 60, 0.5, 'Layers faster than this are slowed down.', {
    up: 'small tips keep their shape, speed swings',
    down: 'even finish',
  }),
  speedFloor: cooling('Speed floor', 'mm/s', 2, 60, 1, 'The slow-down for layer time never goes below this.'),

  firstHeight: first('First-layer height', 'mm', 0.05, 0.8, 0.01, 'Height of the first layer.', {
    shareOf: 'layerHeight',
    up: 'buries an uneven bed',
    down: 'more squish on a flat bed',
  }),
  firstWidth: first('First-layer line width', 'mm', 0.1, 2.5, 0.01, 'Width of the first layer’s lines.', {
    shareOf: 'nozzle-diameter',
    up: 'more grip',
    down: 'finer details',
  }),
  firstSpeed: first('First-layer speed', 'mm/s', 3, 120, 1, 'Speed of the first layer.', {
    shareOf: 'outerSpeed',
    up: 'saves a minute',
    down: 'lines take hold',
  }),
  zOffset: first('Z offset', 'mm', -1, 1, 0.01, 'Moves the nozzle against the bed; found on the machine.', {
    up: 'larger gap',
    down: 'more squish',
  }),
  slowZoneHeight: first(
    'Slow zone height',
    'mm',
    0,
    10,
    0.1,
    'Everything below this height is laid slowly; 0 is off.',
    {
      up: 'small islands hold',
      down: 'saves time',
    },
  ),
  slowZoneSpeed: first(
    'Slow zone speed',
    'mm/s',
    3,
    100,
    1,
    'Top speed inside the slow zone.',
    whenSome('slowZoneHeight'),
  ),

  skirtLoops: grip('Skirt loops', 'loops', 0, 10, 1, 'Loops around the part that prime the nozzle.'),
  brimLines: grip('Brim lines', 'lines', 0, 40, 1, 'Flat lines joined to the edge of the first layer.', {
    up: 'corners hold',
    down: 'nothing to trim',
  }),
  brimWidth: grip('Brim line width', 'mm', 0.1, 2.5, 0.01, 'Width of the brim’s lines.', {
    ...whenSome('brimLines'),
    shareOf: 'nozzle-diameter',
  }),
  brimGap: grip(
    'Brim gap',
    'mm',
    0,
    1,
    0.01,
    'Space between part and brim; 0 joins them.',
    whenSome('brimLines'),
  ),
  cornerTabs: grip('Corner tabs', 'mm', 0, 30, 1, 'Diameter of round tabs under the corners; 0 is none.'),
  raft: toggle('grip', 'Raft', 'A printed platform under the part.'),
  raftBottomLayers: grip(
    'Raft bottom layers',
    'layers',
    1,
    5,
    1,
    'Thick layers that hold the bed.',
    whenOn('raft'),
  ),
  raftTopLayers: grip(
    'Raft top layers',
    'layers',
    1,
    6,
    1,
    'Normal layers the part stands on.',
    whenOn('raft'),
  ),
  raftMargin: grip(
    'Raft margin',
    'mm',
    0,
    20,
    0.5,
    'How far the raft reaches beyond the part.',
    whenOn('raft'),
  ),
  raftGap: grip('Raft gap', 'mm', 0, 1, 0.01, 'Air between raft and part.', {
    ...whenOn('raft'),
    up: 'comes off easily',
    down: 'smoother underside',
  }),
  raftBottomWidth: grip('Raft bottom line width', 'mm', 0.2, 4, 0.05, 'Width of the bottom layer’s lines.', {
    ...whenOn('raft'),
    shareOf: 'nozzle-diameter',
  }),
  raftBottomSpeed: grip('Raft bottom speed', 'mm/s', 2, 60, 1, 'Speed of the bottom layer.', whenOn('raft')),
  raftDensity: grip('Raft bottom density', '%', 20, 100, 5, 'Share of the bottom layer that is plastic.', {
    ...whenOn('raft'),
    percentOf: 'a solid layer',
    up: 'more grip',
    down: 'easier to remove',
  }),
  raftTopWidth: grip('Raft top line width', 'mm', 0.1, 2.5, 0.01, 'Width of the top layers’ lines.', {
    ...whenOn('raft'),
    shareOf: 'nozzle-diameter',
  }),
  raftTopSpeed: grip('Raft top speed', 'mm/s', 2, 100, 1, 'Speed of the top layers.', whenOn('raft')),
  raftTopDensity: grip('Raft top density', '%', 20, 100, 5, 'Share of the top layers that is plastic.', {
    ...whenOn('raft'),
    percentOf: 'a solid layer',
    up: 'smoother underside',
    down: 'easier to remove',
  }),
  raftCrossing: grip(
    'Raft crossing angle',
    '°',
    0,
    90,
    5,
    'Angle of the part’s lines to the raft’s top lines.',
    whenOn('raft'),
  ),
  supportGap: grip('Support gap', 'mm', 0, 1, 0.01, 'Air between supports and the face they carry.', {
    shareOf: 'layerHeight',
    up: 'comes off cleanly, face sags more',
    down: 'face lies truer, scars stay',
  }),
  draughtWall: grip(
    'Draught wall',
    'lines',
    0,
    5,
    1,
    'A thin wall around the part that keeps moving air off; 0 is none.',
  ),

  layerHeight: walls('Layer height', 'mm', 0.04, 0.8, 0.01, 'Height of every layer after the first.', {
    shareOf: 'nozzle-diameter',
    up: 'faster, stronger',
    down: 'finer steps',
  }),
  outerWidth: walls('Outer line width', 'mm', 0.1, 2, 0.01, 'Width of the outer wall’s line.', {
    shareOf: 'nozzle-diameter',
  }),
  innerWidth: walls('Inner line width', 'mm', 0.1, 2, 0.01, 'Width of the inner walls’ lines.', {
    shareOf: 'nozzle-diameter',
  }),
  fillWidth: walls('Fill line width', 'mm', 0.1, 2, 0.01, 'Width of the infill’s lines.', {
    shareOf: 'nozzle-diameter',
  }),
  wallCount: walls('Walls', 'lines', 1, 12, 1, 'Lines side by side in a wall.'),
  topLayers: walls('Top layers', 'layers', 0, 30, 1, 'Solid layers that close the top.'),
  bottomLayers: walls('Bottom layers', 'layers', 0, 30, 1, 'Solid layers at the base.'),
  sparseDensity: walls('Infill density', '%', 0, 100, 1, 'Share of the inside that is plastic.', {
    percentOf: 'a solid inside',
    up: 'stiffer',
    down: 'softer, lighter',
  }),
  wallOrder: {
    kind: 'choice',
    label: 'Wall order',
    group: 'walls',
    what: 'Which wall of a layer is laid first.',
    choices: [
      { value: 'inside-first', label: 'inside first' },
      { value: 'outside-first', label: 'outside first' },
    ],
  } as ChoiceSetting,
  seamPlace: {
    kind: 'choice',
    label: 'Seam place',
    group: 'walls',
    what: 'Where the loops of the outer wall start.',
    choices: [
      { value: 'stacked', label: 'stacked' },
      { value: 'tucked', label: 'tucked into a corner' },
      { value: 'turned-away', label: 'turned away' },
      { value: 'scattered', label: 'scattered' },
    ],
  } as ChoiceSetting,
  seamDirection: walls(
    'Seam direction',
    '°',
    0,
    359,
    1,
    'The side a turned-away seam faces; 90 is the back.',
    {
      when: { key: 'seamPlace', is: 'turned-away' },
    },
  ),

  outerSpeed: speed('Outer wall', 'mm/s', 3, 500, 1, 'Speed of the outer wall.', {
    shareOf: 'innerSpeed',
    up: 'saves time',
    down: 'better face',
  }),
  innerSpeed: speed('Inner walls', 'mm/s', 3, 500, 1, 'Speed of the inner walls.'),
  solidSpeed: speed('Solid fill', 'mm/s', 3, 500, 1, 'Speed of bottoms and solid layers.'),
  topSpeed: speed('Top surface', 'mm/s', 3, 500, 1, 'Speed of the last top layer.'),
  sparseSpeed: speed('Sparse fill', 'mm/s', 3, 500, 1, 'Speed of sparse infill.'),
  bridgeSpeed: speed('Bridges', 'mm/s', 3, 200, 1, 'Speed of lines laid over air.', {
    shareOf: 'outerSpeed',
  }),
  smallLoopSpeed: speed('Small loops', 'mm/s', 3, 300, 1, 'Speed of short closed loops.', {
    shareOf: 'outerSpeed',
  }),
  smallLoopLength: speed('Small loops, up to', 'mm', 0, 100, 1, 'Loops no longer than this count as small.'),
  travelSpeed: speed('Travel', 'mm/s', 10, 1000, 5, 'Speed without feeding.', {
    up: 'fewer strings, more ringing',
    down: 'gentler',
  }),
  outerAcceleration: speed(
    'Acceleration, outer wall',
    'mm/s²',
    50,
    30000,
    50,
    'How hard the outer wall speeds up.',
    { up: 'saves time', down: 'less ghosting' },
  ),
  innerAcceleration: speed(
    'Acceleration, rest',
    'mm/s²',
    50,
    30000,
    50,
    'How hard everything else speeds up.',
  ),
  travelAcceleration: speed('Acceleration, travel', 'mm/s²', 50, 30000, 50, 'How hard travels speed up.'),
  firstAcceleration: speed(
    'Acceleration, first layer',
    'mm/s²',
    50,
    30000,
    50,
    'How hard the first layer speeds up.',
  ),
  cornerChange: speed(
    'Corner change',
    'mm/s',
    0.1,
    50,
    0.1,
    'Speed that may change at once in a corner (jerk).',
    { up: 'faster corners', down: 'less ghosting' },
  ),
  junctionDeviation: speed(
    'Junction deviation',
    'mm',
    0.001,
    0.5,
    0.001,
    'How far a corner may be cut, for firmware with this rule.',
    { up: 'faster corners', down: 'less ghosting' },
  ),

  contourOffset: size(
    'Contour offset',
    'mm',
    -0.5,
    0.5,
    0.005,
    'Moves every outline; negative shrinks, positive grows.',
    { up: 'part grows', down: 'fused joints come free' },
  ),
  holeOffset: size(
    'Hole offset',
    'mm',
    -0.5,
    0.5,
    0.005,
    'Moves the edge of holes only; positive opens them.',
    { up: 'larger holes', down: 'smaller holes' },
  ),
  footTrim: size('Foot trim', 'mm', 0, 1, 0.01, 'Pulls the first layers in against elephant’s foot.'),
  scaleX: size('Scale X', '%', 95, 105, 0.01, 'Makes up for shrinking along X.', {
    percentOf: 'the drawn size',
  }),
  scaleY: size('Scale Y', '%', 95, 105, 0.01, 'Makes up for shrinking along Y.', {
    percentOf: 'the drawn size',
  }),
  scaleZ: size('Scale Z', '%', 95, 105, 0.01, 'Makes up for shrinking along Z.', {
    percentOf: 'the drawn size',
  }),
} satisfies Record<string, Setting>

export type SettingKey = keyof typeof SETTINGS
export const SETTING_KEYS = Object.keys(SETTINGS) as SettingKey[]

/** The entry of a key; widened so that every kind can be handled. */
export function settingOf(key: SettingKey): Setting {
  return SETTINGS[key]
}

/** True when the text names a setting. Safe against inherited names such as "constructor". */
export function isSettingKey(key: string): key is SettingKey {
  return Object.hasOwn(SETTINGS, key)
}

/** Decimals worth showing for a numeric setting, from its rounding step. */
export function digitsOf(setting: NumberSetting): number {
  const text = String(setting.step)
  return text.includes('.') ? text.split('.')[1].length : 0
}

/** Rounds to the setting's step and holds the result within its bounds. */
export function roundTo(setting: NumberSetting, value: number): number {
  const stepped = Number((Math.round(value / setting.step) * setting.step).toFixed(digitsOf(setting)))
  return Math.min(setting.max, Math.max(setting.min, stepped))
}

/**
 * Checks a value for a setting.
 * @returns null when it fits, else one sentence a person can act on
 */
export function faultOf(key: SettingKey, value: unknown): string | null {
  const s = settingOf(key)
  switch (s.kind) {
    case 'switch':
      return typeof value === 'boolean' ? null : `${s.label} is either on or off.`
    case 'choice':
      return s.choices.some((c) => c.value === value)
        ? null
        : `${s.label} is one of: ${s.choices.map((c) => c.label).join(', ')}.`
    case 'number':
      if (typeof value !== 'number' || !Number.isFinite(value))
        return `${s.label} needs a number in ${s.unit}.`
      if (value < s.min || value > s.max) return `${s.label} lies between ${s.min} and ${s.max} ${s.unit}.`
      return null
  }
}
