import type { Remedy } from '../recipe/lint/rule'

export interface Procedure {
  name: string
  tools: string[]
  steps: string[]
  cautions: string[]
  /** When to stop. */
  stop: string
}

/** Physical remedies with their steps. Common practice. */
export const PROCEDURES = {
  'level-screws': {
    name: 'Level the bed by its screws',
    tools: ['sheet of paper'],
    steps: [
      'Heat bed and nozzle to printing heat and wait five minutes.',
      'Bring the nozzle over the first corner screw at Z 0.',
      'Turn the screw until paper drags lightly.',
      'Do the other corners in the same way, then all again.',
      'Check the middle.',
    ],
    cautions: ['The nozzle is hot.'],
    stop: 'Two rounds without a change.',
  },
  'map-bed': {
    name: 'Map the bed and let the machine follow it',
    tools: ['the machine’s probe, or paper at nine places'],
    steps: [
      'Level first: a map is for what levelling cannot reach.',
      'Heat bed and nozzle to printing heat and wait five minutes.',
      'Let the probe take a grid of at least four by four places.',
      'Have the machine keep the grid and switch it on before each print.',
      'Enter the largest difference as the bed’s unevenness, so that the first layer can be judged.',
    ],
    cautions: ['A new map after every change of plate, glass or springs.'],
    stop: 'Two maps in a row agree within 0.02 mm.',
  },
  'nozzle-gap': {
    name: 'Set the nozzle gap',
    tools: ['sheet of paper'],
    steps: [
      'Heat bed and nozzle to printing heat.',
      'Lower the nozzle to Z 0 in the middle of the bed.',
      'Change the Z offset until paper drags lightly.',
      'Print a one-layer patch: lines should touch and stay smooth.',
      'Move by 0.02 mm at a time and keep the value.',
    ],
    cautions: ['Never lower a cold nozzle onto a cold bed and then heat it.'],
    stop: 'Lines touch and the finger feels no ridge.',
  },
  'wash-bed': {
    name: 'Wash and prepare the bed',
    tools: ['dish soap', 'isopropyl alcohol', 'lint-free cloth'],
    steps: [
      'Let the bed cool.',
      'Wash with warm water and dish soap, rinse, dry.',
      'Wipe with alcohol.',
      'On glass for glue: put on a thin new coat and let it dry.',
      'Do not touch the face again.',
    ],
    cautions: ['No alcohol near a hot nozzle.'],
    stop: 'Water spreads out instead of beading.',
  },
  'dry-filament': {
    name: 'Dry and store the roll',
    tools: ['dryer or oven with a known temperature', 'scales'],
    steps: [
      'Weigh the roll.',
      'Dry at the card’s temperature for its hours.',
      'Weigh again: a loss of more than 0.2 % says it was wet.',
      'Print from the dryer or a closed box with desiccant.',
    ],
    cautions: ['A dryer that stops at 50 °C needs about twice the hours.', 'Too hot and the windings weld.'],
    stop: 'Weight no longer falls.',
  },
  'change-filament': {
    name: 'Change filament',
    tools: ['side cutters'],
    steps: [
      'Heat to a little under printing heat (PLA about 185 °C).',
      'Pull the old filament out in one go.',
      'Cut the new end to a point.',
      'Feed until the colour runs clean.',
    ],
    cautions: [],
    stop: 'Colour is clean and the thread runs straight.',
  },
  'clear-nozzle': {
    name: 'Clear a blocked nozzle',
    tools: ['needle of the nozzle’s bore', 'two spanners'],
    steps: [
      'Heat to the filament’s upper range.',
      'Push filament by hand; help with the needle from below.',
      'If nothing moves: keep it hot, hold the heater block with one spanner and unscrew the nozzle with the other.',
      'Clean it, or fit a new one, and tighten hot.',
      'Burning the nozzle out is the last resort.',
    ],
    cautions: ['The needle only while hot.', 'Hold the block so that it does not turn.', 'Never drill cold.'],
    stop: 'A free thread falls straight and smooth.',
  },
  'cold-pull': {
    name: 'Make a cold pull',
    tools: ['a length of clean filament'],
    steps: [
      'Feed clean filament at printing heat.',
      'Cool to about 90 °C (PLA).',
      'Pull it out in one firm go.',
      'Look at the tip: dirt sticks to it.',
      'Repeat until the tip is clean.',
    ],
    cautions: ['Pull straight, not across the drive.'],
    stop: 'The tip is clean and shows the bore’s shape.',
  },
  'clean-gear': {
    name: 'Clean the drive gear',
    tools: ['stiff brush', 'marker'],
    steps: [
      'Take the filament out.',
      'Brush the dust out of the teeth.',
      'Cut off the ground stretch.',
      'Set the tension so that teeth mark but do not flatten the filament.',
      'Mark the filament and watch it feed 100 mm.',
    ],
    cautions: ['Power off before fingers go near the gear.'],
    stop: 'The mark moves without a jump.',
  },
  'free-feed-path': {
    name: 'Free the feed path',
    tools: [],
    steps: [
      'Pull the filament by hand through the whole path.',
      'Untangle the roll; check that it turns freely.',
      'Ease tight bends of the tube.',
      'For soft filament: go round long guide tubes.',
    ],
    cautions: [],
    stop: 'It pulls through with two fingers.',
  },
  'tension-belts': {
    name: 'Tension belts and wheels',
    tools: ['hex keys'],
    steps: [
      'Power off. Shake each axis by hand.',
      'Tighten the belt until it sounds when plucked.',
      'Turn the eccentric nuts until wheels just cannot be turned by hand.',
    ],
    cautions: ['Too tight wears bearings.'],
    stop: 'Nothing rattles and the carriage slides evenly.',
  },
  'square-frame': {
    name: 'Square the frame',
    tools: ['try square', 'hex keys'],
    steps: [
      'Measure both diagonals of a printed square.',
      'Loosen the frame on one side, square it, tighten crosswise.',
      'Print and measure again.',
    ],
    cautions: [],
    stop: 'Diagonals agree within 0.1 mm.',
  },
  'align-z': {
    name: 'Free the Z axis',
    tools: ['grease', 'hex keys'],
    steps: [
      'Power off. Turn the screw by hand over the whole height.',
      'Loosen the nut where it binds, let it find its place, tighten.',
      'Clean and grease the screw.',
    ],
    cautions: [],
    stop: 'It turns evenly over the whole height.',
  },
  'free-part': {
    name: 'Free a stuck part',
    tools: ['thin spatula', 'cold water'],
    steps: [
      'Let the bed cool right down.',
      'Bend a flexible sheet, or slide the spatula in flat at a corner.',
      'On glass, cool it further; a drop of alcohol creeps under.',
    ],
    cautions: ['Push away from yourself and from the other hand.'],
    stop: 'If glass starts to chip.',
  },
  'join-roll': {
    name: 'Join a second roll',
    tools: ['side cutters'],
    steps: [
      'Pause beside the part, never over it.',
      'Cut the old end square and the new end square.',
      'Push the new end in behind the old one and go on feeding by hand until it is gripped.',
    ],
    cautions: ['Watch the first layer after it.'],
    stop: 'The join has passed the drive.',
  },
  'cover-frame': {
    name: 'Cover an open frame',
    tools: ['a box or sheet'],
    steps: [
      'Close windows and keep fans off the machine.',
      'Stand a cover around it with a gap for cables.',
      'Warm the air with the bed for ten minutes before printing.',
    ],
    cautions: ['Keep covers off hot parts; do not leave it alone.'],
    stop: 'Air inside is above 35 °C for ABS and ASA.',
  },
  'filter-fumes': {
    name: 'Filter fumes',
    tools: ['filter or hose to a window'],
    steps: ['Lead the exhaust through a carbon filter or outside.', 'Keep the room aired.'],
    cautions: ['ABS, ASA and PEBA want this each time.'],
    stop: 'No smell in the room.',
  },
  'change-surface': {
    name: 'Change the bed surface',
    tools: ['glue stick or release layer'],
    steps: [
      'Look up which surfaces this material holds on.',
      'Put on that surface, glue, or a release layer.',
      'Set the nozzle gap anew.',
    ],
    cautions: ['PETG on bare glass tears chips out: use glue.'],
    stop: 'A test patch holds and comes off cold.',
  },
  'turn-part': {
    name: 'Turn the part',
    tools: [],
    steps: [
      'Put the flattest face down.',
      'Keep slopes under 45° where you can.',
      'Make the path file anew.',
    ],
    cautions: ['The seam may land elsewhere.'],
    stop: 'Contact is wide for the height.',
  },
  'prepare-paths': {
    name: 'Make the path file anew',
    tools: [],
    steps: [
      'Change the one thing named here in the program that makes your paths.',
      'Make the file anew and drop it on the case.',
      'Look whether it does what you meant before printing.',
    ],
    cautions: [],
    stop: 'The reading shows the change.',
  },
  'measure-filament': {
    name: 'Measure the filament',
    tools: ['calipers'],
    steps: [
      'Measure at six places, half a metre apart, turning the filament.',
      'Enter all six on the shelf.',
      'Send a roll back whose spread is over 0.1 mm.',
    ],
    cautions: [],
    stop: 'Six readings are in.',
  },
  'tune-heater': {
    name: 'Steady the heater',
    tools: [],
    steps: [
      'Watch the temperature for five minutes at printing heat.',
      'Run the machine’s own heater tuning.',
      'Put the sock back on the block; check the sensor’s screw.',
    ],
    cautions: ['A loose sensor is a fire risk: stop printing.'],
    stop: 'It stays within 1 °C.',
  },
  'seat-heat-sensor': {
    name: 'Put the nozzle’s reading right',
    tools: ['thermometer with a thin probe', 'hex keys'],
    steps: [
      'Let the hot end cool and switch the machine off.',
      'See that the sensor sits all the way in its hole and that its screw or clip holds it without crushing the wire.',
      'See in the machine’s settings that the kind of sensor is the one that is fitted.',
      'Heat to 200 °C, wait five minutes and hold the probe in the nozzle.',
      'What still differs goes into the machine as an offset, or the sensor is replaced.',
    ],
    cautions: ['A loose sensor is a fire risk: stop printing.', 'The nozzle is hot.'],
    stop: 'Display and thermometer agree within 5 °C.',
  },
  'seat-bed-sensor': {
    name: 'Put the bed’s reading right',
    tools: ['surface thermometer'],
    steps: [
      'Switch the machine off and let the bed cool.',
      'Press the sensor against the underside and hold it there with heat-proof tape.',
      'See that the plate lies flat on the heater, with nothing between.',
      'Heat to 60 °C, wait ten minutes and measure in the middle.',
      'What still differs goes into the machine as an offset, or the sensor is replaced.',
    ],
    cautions: ['Power off before hands go under the bed.'],
    stop: 'Display and surface agree within 5 °C.',
  },
  'fix-tube': {
    name: 'Hold the tube in its fittings',
    tools: ['sharp knife'],
    steps: [
      'Let the hot end cool to 150 °C and take the filament out.',
      'Pull the tube out of both fittings and cut off the bitten ends, square.',
      'Push it in as far as it goes, pull the ring of the fitting up and slip a clip under it.',
      'A fitting whose teeth no longer bite is replaced.',
      'Pull back and push by hand at the screen: the tube must stand still.',
    ],
    cautions: ['The hot end is hot.'],
    stop: 'The tube moves by less than half a millimetre.',
  },
  'relieve-corners': {
    name: 'Take the pull out of the part',
    tools: ['the part’s drawing'],
    steps: [
      'Round upright corners by at least 3 mm.',
      'Cut a few slots, 1 mm wide, into long straight bottoms, or print the part in two pieces.',
      'Choose less infill: it is the long lines of the infill that pull.',
      'Plan the part again and look at where it lifts.',
    ],
    cautions: [],
    stop: 'No corner lifts.',
  },
  'free-part-fan': {
    name: 'Get the part fan blowing again',
    tools: ['strip of paper', 'soft brush', 'small screwdriver'],
    steps: [
      'Set the fan to 100 % at the machine and hold the paper strip in its stream.',
      'Power off. Brush hairs and dust out of the fan and its duct.',
      'Push the duct back into place and see that it points at the nozzle.',
      'Power on and try 30 % and 100 %: the paper should move at both, and more at 100 %.',
      'Replace a fan that starts late, rattles or stands still.',
    ],
    cautions: ['The nozzle may be hot.'],
    stop: 'The paper moves at 30 % and clearly more at 100 %.',
  },
  'tighten-nozzle': {
    name: 'Seal a leaking nozzle',
    tools: ['two spanners', 'brass brush'],
    steps: [
      'Heat to the hottest you print, at most 250 °C.',
      'Take the sock off and brush the block clean while it is hot.',
      'Hold the block with one spanner, loosen the nozzle by half a turn, and screw the heat break in until it stops.',
      'Tighten the nozzle against it, hot and firmly.',
      'Set the nozzle gap again: the tip has moved.',
    ],
    cautions: ['Everything is hot.', 'Do not turn the block by the nozzle: its wires tear.'],
    stop: 'No plastic appears above the nozzle after an hour of printing.',
  },
  'soak-bed': {
    name: 'Let the plate warm through',
    tools: [],
    steps: [
      'Heat the bed and wait five to ten minutes after it says it is warm; fifteen for ABS, PC or thick glass.',
      'Set the nozzle gap only then.',
      'Put the wait into the start of the file if your machine begins on its own.',
    ],
    cautions: [],
    stop: 'The surface no longer gets warmer.',
  },
  'quiet-motors': {
    name: 'Calm the motors',
    tools: ['machine manual'],
    steps: [
      'See that belts run straight over their pulleys and are equally tight.',
      'Set the driver current to what the motor’s plate says.',
      'Where the driver has a quiet mode, print one face with it and one without.',
      'Keep what ripples least.',
    ],
    cautions: ['Change currents with the power off unless the manual says otherwise.'],
    stop: 'A face at the usual speed is smooth in side light.',
  },
  'replace-nozzle': {
    name: 'Replace the nozzle',
    tools: ['two spanners'],
    steps: [
      'Heat to printing heat, hold the block and unscrew.',
      'Fit the new nozzle and tighten hot.',
      'Enter its size on the machine and set the gap anew.',
    ],
    cautions: ['Hot. Hold the block so that it does not turn.'],
    stop: 'No plastic creeps out above the nozzle.',
  },
  'straighten-screw': {
    name: 'Straighten the Z screw',
    tools: ['flat surface'],
    steps: [
      'Roll the screw on glass: light under it shows a bend.',
      'Let its top end float; do not clamp both ends.',
      'Replace a bent one.',
    ],
    cautions: [],
    stop: 'It rolls without a gap.',
  },
  'set-steps': {
    name: 'Correct the machine’s steps',
    tools: ['calipers'],
    steps: [
      'Measure long lengths on the axis.',
      'New steps = old steps × asked ÷ measured.',
      'Store it on the machine, not in the recipe.',
    ],
    cautions: [],
    stop: '100 mm measures 100 mm.',
  },
  'set-feed-steps': {
    name: 'Correct the drive’s feed',
    tools: ['calipers', 'marker'],
    steps: [
      'Mark the filament 120 mm before the drive.',
      'At printing heat feed 100 mm slowly.',
      'Measure what is left to the mark.',
      'New feed steps = old steps × 100 ÷ (120 − what is left).',
      'Store it on the machine, not in the recipe, and feed once more.',
    ],
    cautions: ['The nozzle is hot.'],
    stop: '100 mm asked are 100 mm fed, within half a millimetre.',
  },
  'cool-cold-end': {
    name: 'Cool the cold side',
    tools: ['soft brush'],
    steps: [
      'Feel the cold side after half an hour: warm is right, too hot to touch is not.',
      'Brush dust and hair out of its fan; see that it turns at full speed.',
      'Open door or lid for plastics that soften early.',
      'Print again and watch the first hour.',
    ],
    cautions: ['Fan blades: power off first.', 'Plastics that split in moving air want the door closed.'],
    stop: 'It feeds for an hour without a click.',
  },
  'secure-axes': {
    name: 'Secure belts and pulleys',
    tools: ['hex keys'],
    steps: [
      'Power off. Push the head and the bed by hand: feel for play and for a tight spot.',
      'Tighten the grub screws of each pulley, one of them on the flat of the shaft.',
      'Tension the belts until they give a low note.',
      'Move the axis through its length once more.',
    ],
    cautions: ['Power off.', 'A belt that is too tight wears its bearings.'],
    stop: 'No play, and the same force all the way.',
  },
  'seat-gear': {
    name: 'Seat the drive gear',
    tools: ['hex keys', 'marker'],
    steps: [
      'Mark one tooth and watch a slow feed: it must not swell once a turn.',
      'Loosen the grub screw, push the gear square onto the shaft, tighten on the flat.',
      'Replace a gear whose hole is off the middle.',
    ],
    cautions: ['Power off before fingers go near the gear.'],
    stop: 'The mark turns at one distance.',
  },
  'seat-liner': {
    name: 'Seat the liner',
    tools: ['sharp blade', 'two spanners'],
    steps: [
      'Heat, take the filament out, unscrew the nozzle by half a turn.',
      'Pull the tube, cut its end square.',
      'Push the tube in until it meets the nozzle, then tighten the nozzle hot against it.',
      'Fix the tube’s coupling so that it cannot creep back.',
    ],
    cautions: [
      'Hot. Hold the block so that it does not turn.',
      'Above 240 °C a liner gives off fumes: all metal then.',
    ],
    stop: 'A cold pull comes out without a mushroom.',
  },
  'find-by-trial': {
    name: 'Find the value by a trial',
    tools: [],
    steps: [
      'Print the trial that is named here, from this recipe.',
      'Read it off as its sheet says.',
      'Keep the value it finds.',
    ],
    cautions: [],
    stop: 'The trial names a value and how sure it is.',
  },
} as const satisfies Record<string, Procedure>
export type ProcedureId = keyof typeof PROCEDURES
export const PROCEDURE_IDS = Object.keys(PROCEDURES) as ProcedureId[]

/** The chapter that a warning's remedy points to. */
export const chapterOf = (remedy: Remedy): ProcedureId => remedy

/** The procedure of an id, widened. */
export function procedureOf(id: ProcedureId): Procedure {
  return PROCEDURES[id]
}
