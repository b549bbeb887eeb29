import type { TrialId } from './checks'
import type { ProcedureId } from './procedures'
import type { SignId } from './signs'
import type { SuspectId } from './suspects'

/**
 * What the trade calls a sign besides, and behind a semicolon what people type who look for it, with commas between.
 * Common practice.
 */
const SIGN_WORDS: Partial<Record<SignId, string>> = {
  'strings-thin':
    'stringing, hairs, whiskers, cobwebs, wisps, oozing; spider web, fuzz, fuzzy, hairy, angel hair, threads, strands, fine hair, string',
  'strings-thick': 'stringing, ropes, oozing; strands, thick threads, string, cords',
  'blobs-on-wall': 'zits, pimples, blobs, warts; bumps, little bumps, spots, boogers, dots',
  'popping-or-steam':
    'crackling, hissing, bubbles, wet filament; sizzling, hisses, pops, noise from the nozzle, smoke, vapour, damp, moisture',
  'rough-foamy-surface': 'foaming, bubbles, pitting; foamy, pits, wet filament, porous, moisture, rough',
  'nozzle-drips-idle': 'oozing, dripping, drooling; leaks while heating, runs out by itself, drip',
  'first-layer-not-sticking':
    'bed adhesion, does not stick, comes loose, peels off; won’t stick, not sticking, adhesion, no adhesion, drags along, curls around the nozzle, came off the bed, slides off, ball of plastic on the nozzle, not gripping, too high',
  'corners-lift':
    'warping, warp, curling corners, lifting; warped, corner came up, edges lifting, bending up, curled corners, base not flat, bottom not flat, bowed, comes up from the bed',
  'part-breaks-loose':
    'bed adhesion, knocked off, spaghetti, detached; came off the bed, came loose, popped off, fell over, knocked over, bird’s nest, nest of plastic, tipped over, detached halfway, ripped off, broke free, adhesion',
  'small-pieces-detach':
    'bed adhesion, islands come off; letters moved, tiny parts come off, small parts move, adhesion of small feet',
  'first-layer-gaps':
    'too high, gaps between first lines, not squished; lines do not touch, gaps in the first layer, not squished enough, nozzle too high, too far from the bed, lines apart, holes in the bottom',
  'first-layer-ridges':
    'too low, over-squished, scraping, ploughing; nozzle too close, nozzle too low, scratching the bed, rubbing, see through, transparent, ploughs, squished too much, rough first layer, gouges',
  'first-layer-uneven':
    'uneven bed, unlevel bed, tramming; not level, bed not level, one side, only sticks in one corner, good on one side bad on the other, tilted bed, warped bed, bad spot',
  'first-lines-missing':
    'no extrusion at the start, not primed; nothing comes out at the beginning, start missing, empty start, beginning missing',
  'base-flare':
    'elephant foot, elephant’s foot, bulging base, squashed base; elefant foot, flared, lip at the bottom, bottom sticks out, bottom too wide, bulge at the bottom, over-squished, rim, flange',
  'details-lost-first-layer':
    'blurred text, filled-in holes at the base; smeared letters, text on the bottom, blurred, merged details, illegible, engraving closed',
  'hard-to-remove':
    'stuck to the bed, fused to the plate; cannot get it off, can’t get it off the bed, stuck, won’t come off, bonded, welded to the plate',
  'seam-line':
    'z seam, visible seam, zipper, layer start; line down the side, vertical line, scar, ridge, ugly seam, line up the wall, stripe up the wall',
  'seam-bumps-scattered': 'random seam, zits, pimples; random dots, seam dots, little bumps, scattered zits',
  'seam-blob':
    'seam bulge, z seam, zipper, blob at layer start; seam bulges, blob at the start of each layer, layer starts, lump',
  'seam-gap':
    'seam notch, z seam, under-extruded start; hole at the seam, gap at layer start, gap where the layer begins, pit at the seam',
  'bands-regular':
    'z banding, wobble, ribbing, lines at equal distance; stripes, horizontal lines, even lines, rings, rhythm, repeating lines, z wobble, banding',
  'bands-at-feature-height':
    'banding, line where the hole begins, hull line, layer line at a change; stripes, line at one height, ring, horizontal line, visible line, line at a hole',
  'bands-gloss':
    'banding, shiny and dull stripes, gloss change, sheen; shiny, glossy, matte bands, stripes, patches, shinier layers',
  'bands-irregular':
    'z banding, inconsistent extrusion, uneven layers, layer lines; rough walls, thick and thin layers, uneven walls, rings, bumpy walls, messy layers',
  'dull-finish':
    'matte patches, no shine, rough finish; not shiny, matte, lost its shine, dull, silk looks dull, not glossy, rough',
  'vertical-fine-ribs':
    'moiré, vertical fine artefacts, vertical lines; VFA, fine vertical lines, corduroy, ribs, pinstripes, moire',
  ghosting:
    'ringing, echo, ripples, resonance, vibration, shadows; waves after corners, vibration marks, ghost, shadow of an edge, wobble after corners, ripple',
  'waves-regular-height':
    'drive gear marks, extrusion waves, periodic extrusion; wavy walls, bulges every few millimetres, periodic bulge, undulating',
  'outside-too-big':
    'oversized, dimensional accuracy, tolerance, does not fit; too big, too large, too wide, too thick, measures over, lid too tight, will not fit, tight fit, does not fit in, measures 20.3, cube',
  'outside-too-small':
    'undersized, shrinkage, dimensional accuracy, tolerance; too small, shrank, shrunk, too thin, measures under, lid loose, smaller than drawn',
  'holes-too-small':
    'hole shrinkage, tight holes, dimensional accuracy, tolerance; screw does not go in, pin does not go in, bearing does not fit, too tight, lid too tight, bolt, undersized holes, does not fit, press fit',
  'error-constant':
    'dimensional accuracy, constant offset; same amount, off by the same, always 0.2 too big, constant',
  'error-grows-with-length':
    'shrinkage, scaling error, dimensional accuracy; bigger with length, proportional, percent, shrank, scale',
  'one-axis-only':
    'dimensional accuracy, oval holes, axis scale; only x, only y, one direction, x and y differ, wrong direction',
  'height-wrong': 'too tall, too short, z height; height, too high, z wrong, wrong height, too low',
  'not-square':
    'skew, parallelogram, diagonals differ; skewed, crooked corners, diamond, out of square, angle',
  'round-not-round': 'oval circles, flat spots, backlash, egg-shaped; oval, egg, ellipse, not circular',
  'moving-parts-fused':
    'print in place stuck, clearance, hinge will not move; stuck together, hinge stuck, joint stuck, welded, lid too tight, seized, fused',
  'joint-too-loose':
    'clearance, sloppy fit, rattles; too loose, wobbly, lid falls off, snap fit does not hold, sloppy, play, loose fit',
  'gaps-between-walls':
    'under-extrusion, walls not fused, thin walls; under-extruded, underextruded, walls not joined, walls apart, see between the walls, perimeters separate, thin walls split, too little plastic',
  'gaps-in-solid-fill':
    'under-extrusion, holes in the top, poor infill; under-extruded, underextruded, gaps in the top, top not closed, holes in top surface, too little plastic, infill shows through, pinholes',
  'top-rough-overfull':
    'over-extrusion, too much plastic, nozzle drags, rough top; over-extruded, overextruded, rough top surface, scraping the top, nozzle hits the top, ridges on top',
  'weak-layers':
    'delamination, poor layer bonding, poor layer adhesion, breaks between layers; layers come apart, snaps easily, brittle part, weak, delaminates, breaks along the layers, fragile, no strength, layer adhesion',
  'layer-splits':
    'cracking, delamination, splitting; cracks, cracks in the side, split open, layers come apart, crack in the wall, splitting apart',
  'missing-layers':
    'skipped layers, under-extrusion; layer missing, gap all round, gap all the way round, under-extruded, underextruded, skipped layer',
  'thinner-at-speed':
    'under-extrusion, cannot keep up, volumetric limit; thin when fast, can’t keep up, under-extruded, underextruded, starved, too fast',
  'extruder-clicks':
    'clicking, skipping, knocking, clunking; extruder skips, skips, ticking, knocks back, clunk, thumping, extruder noise, click',
  'filament-ground':
    'grinding, stripped filament, chewed, dust at the gear; grinds, chewed up, stripped, shavings, dust at the gears, grind',
  'flow-stops-midprint':
    'clog, jam, stopped extruding, air printing; clogged, blocked nozzle, blockage, jammed, nothing comes out, no filament comes out, prints in air, stopped halfway',
  'works-then-stops':
    'heat creep, jam after a while, clog; jams after half an hour, clogs again, jams later, hotend fan, cold end too hot, clogs after a while, jammed',
  'holes-in-soft-wall': 'melted spot, burn mark; torn wall, holes in TPU, tears',
  'sagging-overhangs':
    'drooping, poor overhangs, curling overhangs; droop, ugly underside, bad overhang, rough slopes, overhang, saggy',
  'tips-melt':
    'melted tips, blobby spires, small features melt; melted tip, top of the cone, blobby top, tip is a blob, melting, small top',
  'bridge-sags':
    'drooping bridge, poor bridging; sagging bridge, droops, saggy bridge, bridging, hanging lines',
  'top-pillows':
    'pillowing, bumpy top, quilted top; pillows, holes in the top, top not closed, bubbles on top, quilt',
  'support-scars':
    'rough underside, support marks, scarring; supports stuck, supports will not come off, ugly underside, support residue',
  'layers-shifted':
    'layer shift, staircase, skipped steps, offset layers; shifted, offset, jumped sideways, top half is offset, misaligned, slipped, step in the wall, stepped',
  'edges-curl-up':
    'curling, upturned edges; curled up overhang, nozzle hits the part, curl, edges curl, overhang hits nozzle, collision',
  'filament-snaps':
    'brittle, broken filament; filament broke, snapped, snapped overnight, filament breaks, broke in the tube',
  'crack-along-seam': 'split at the seam, cracking; cracked seam, seam opens, burst',
  'base-bows': 'sunken base, concave bottom; pinched in, sucked in, hollow bottom, waist, bottom not flat',
  'corners-bulge':
    'bulging corners, fat corners; corners stick out, thick corners, pressure advance too low, linear advance too low, dog ears, blobby corners',
  'corners-hollow':
    'gap after a corner, dents after corners; thin corners, pressure advance too high, linear advance too high, K factor too high, rounded corners',
  'ripple-fine-even': 'salmon skin, fine ripples; VFA, moire, ripple, motor marks, stepper pattern',
  'part-leans': 'leaning, tilted; crooked, slanted, tower of Pisa, not upright, leans over',
  'plastic-on-block':
    'hotend leaks, leaking nozzle; leak, blob around the heater block, burnt crumbs, black bits, plastic around the nozzle, brown drips',
  'splits-across-load':
    'bracket broke, clip snapped off; hook broke, broke in use, snapped, not strong enough, broke under load, snaps',
  'slow-layers-soft':
    'fan does nothing, stays soft; fan not working, fan broken, soft layers, no cooling, still melted',
  'stuck-fast':
    'stuck for good, chip out of the glass; tore the sheet, damaged bed, cannot remove, impossible to remove, glass chipped, stuck',
}

/** The same of suspects. */
const SUSPECT_WORDS: Partial<Record<SuspectId, string>> = {
  'nozzle-too-hot': 'temperature too high, overheating',
  'nozzle-too-cold': 'temperature too low, under-temperature',
  'nozzle-reads-off': 'thermistor, thermocouple, wrong temperature, sensor',
  'bed-reads-warm': 'thermistor, bed temperature wrong, sensor',
  'roll-unlike-family': 'bad filament, wrong material, batch, blend',
  'retraction-too-short': 'stringing, pull-back, oozing; retraction',
  'retraction-off': 'no retraction, pull-back; retraction',
  'retraction-too-long': 'pull-back, grinding, jam; retraction',
  'filament-wet': 'moisture, damp, humidity, hygroscopic, drying; wet, dry box, steam',
  'pressure-not-relieved': 'bulging corners',
  'pressure-compensation-too-high': 'rounded corners; pressure advance, linear advance, K factor',
  'nozzle-worn-or-wrong': 'worn nozzle, nozzle size, abrasive',
  'partial-blockage': 'clog, jam, blocked nozzle, partial clog',
  'heat-creep': 'jam, clog, cold end, heat break; hotend fan, cold end fan, heat sink fan',
  'liner-gap': 'tube gap, plug, clog',
  'feed-slip': 'skipping, grinding, extruder tension, idler',
  'feed-path-drag': 'tangle, spool drag, tube friction',
  'flexible-buckling': 'soft filament jam, folding, flexible',
  'diameter-off': 'filament tolerance, thick filament, thin filament; 1.75, filament diameter',
  'flow-too-high': 'over-extrusion, flow rate; over-extruded, overextruded',
  'flow-too-low': 'under-extrusion, flow rate; under-extruded, underextruded',
  'melt-rate-exceeded': 'volumetric flow, too fast for the hot end, under-extrusion',
  'feed-steps-off': 'extruder calibration, e-steps, steps per millimetre',
  'drive-gear-runout': 'eccentric gear, extruder wobble',
  'temperature-swing': 'PID, heater tuning, fluctuating temperature',
  'nozzle-gap-too-large': 'z offset, too high, first layer height; nozzle too high',
  'nozzle-gap-too-small': 'z offset, too low, squish; nozzle too low, nozzle too close',
  'bed-tilted': 'levelling, tramming, unlevel bed',
  'bed-warped': 'mesh, bed bow, uneven bed',
  'bed-dirty': 'grease, fingerprints, adhesion; dirty plate, oily, soap, alcohol',
  'wrong-surface': 'build plate, glue, tape, sheet',
  'shrink-stress': 'warping, shrinkage, brim, enclosure',
  draught: 'draft, open window, enclosure',
  'cooling-too-weak': 'part fan, overheating, cooling fan',
  'cooling-too-strong': 'part fan, over-cooling, delamination',
  'layer-time-too-short': 'small layers melt, minimum layer time',
  'speed-swings': 'banding, slow down for cooling',
  'acceleration-too-high': 'ringing, jerk, vibration, resonance',
  'axis-loose': 'belt tension, backlash, play, loose belt',
  'steps-lost': 'layer shift, skipped steps, motor current, loose pulley',
  'nozzle-strikes-edge': 'collision, curling',
  'screw-wobble': 'z wobble, lead screw, bent screw, z banding',
  'z-binding': 'lead screw, z axis sticks',
  'belt-tooth-imprint': 'vertical fine artefacts, belt pitch, moiré',
  'axes-not-square': 'skew, frame not square',
  'axis-scale-off': 'steps per millimetre, calibration cube',
  'contour-not-compensated': 'tolerance, clearance',
  'shrink-not-compensated': 'shrinkage, scaling',
  'loop-end-overfill': 'z seam, blob at layer change',
  'loop-start-starved': 'z seam, restart, under-extruded start',
  'top-too-thin': 'pillowing, top layers',
  'not-primed': 'priming, purge line, skirt',
  'pressure-compensation-too-low': 'pressure advance, linear advance; K factor, bulging corners',
  'part-fan-weak': 'fan not working, dead fan; cooling fan, blower, duct',
  'nozzle-leaks': 'leaking hotend, leak; nozzle loose, heat break gap',
  'plate-not-soaked': 'heat soak, preheat; warm-up, cold plate',
  'motor-ripple': 'VFA, stepper; salmon skin, motor current, driver',
  'gantry-leans': 'frame not square, crooked frame; racked, leaning',
  'loaded-across-layers': 'orientation, weak direction; layer strength, breaks along layers',
  'walls-too-few': 'perimeters, shells; strength, wall count',
  'seam-stacked': 'z seam, seam position',
  'seam-scattered': 'z seam, random seam',
  'hole-not-compensated': 'hole shrinkage, small holes',
  'filament-brittle': 'snaps, old filament',
  'filament-ran-out': 'empty spool, tangle; knot, end of the roll',
  'support-too-close': 'support gap, z distance',
}
const PROCEDURE_WORDS: Partial<Record<ProcedureId, string>> = {
  'level-screws': 'tramming, levelling, unlevel bed; level the bed, bed levelling',
  'map-bed': 'mesh, bed compensation, probing',
  'nozzle-gap': 'z offset, paper test, first layer height; first layer squish, live z',
  'cold-pull': 'clog, cleaning; unclog',
  'clear-nozzle': 'clog, jam; unclog',
  'dry-filament': 'moisture, humidity, dehydrator; wet filament, oven, dry box',
  'tune-heater': 'PID, autotune',
  'seat-heat-sensor': 'thermistor, thermocouple',
  'seat-bed-sensor': 'thermistor',
  'set-feed-steps': 'e-steps, extruder calibration',
  'set-steps': 'steps per millimetre, axis calibration',
  'free-part': 'stuck part, remove the print; get it off the bed, pry off, freeze',
  'wash-bed': 'clean the bed, grease; alcohol, soap',
  'tension-belts': 'belt tension, loose belt; tighten the belts',
  'replace-nozzle': 'change the nozzle, new nozzle; worn nozzle',
  'free-part-fan': 'fan not working, part cooling; blower',
  'tighten-nozzle': 'leaking hotend, leak; hot tighten',
  'soak-bed': 'heat soak, preheat; warm-up',
  'quiet-motors': 'stepper current, driver mode; VFA',
  'square-frame': 'skew, frame alignment',
  'cool-cold-end': 'heat creep, hotend fan; cold end fan',
  'seat-liner': 'tube gap, cut the tube',
  'change-filament': 'load filament, unload; colour change',
  'cover-frame': 'enclosure, box; draught',
  'join-roll': 'runout, splice; empty spool',
  'clean-gear': 'extruder gear, grinding',
  'secure-axes': 'pulley, grub screw; loose belt, layer shift',
  'align-z': 'lead screw, grease; z axis',
}
const TRIAL_WORDS: Partial<Record<TrialId, string>> = {
  'first-layer-sheet': 'first layer test, z offset test; squish test',
  'temperature-tower': 'temp tower, heat tower; nozzle temperature test',
  'flow-box': 'flow calibration; single wall cube, thin box',
  'retraction-tower': 'retraction test, stringing test',
  'fan-tower': 'cooling test, fan test; overhang test',
  'melt-rate-run': 'volumetric flow test, max flow; flow limit',
  'pressure-lines': 'pressure advance test, linear advance; K factor',
  'corner-columns': 'pressure advance tower, linear advance; corner test',
  'seam-columns': 'seam test, z seam',
  'speed-fins': 'ringing test, ghosting test; resonance, speed test, acceleration test',
  'layer-time-pair': 'minimum layer time, cooling time',
  'bridge-comb': 'bridge test, bridging',
  'string-posts': 'stringing test, towers',
  'size-plate': 'dimensional accuracy, calibration cube; tolerance test, skew',
  'joint-ladder': 'clearance test, tolerance test; print in place, gap test',
}

const wordsFor = (id: string): [names: string[], others: string[]] => {
  const words =
    SIGN_WORDS[id as SignId] ??
    SUSPECT_WORDS[id as SuspectId] ??
    PROCEDURE_WORDS[id as ProcedureId] ??
    TRIAL_WORDS[id as TrialId]
  const [names = '', others = ''] = words?.split('; ') ?? []
  return [names, others].map((list) => list.split(', ').filter(Boolean)) as [string[], string[]]
}

/** What else the trade calls a sign, a suspect, a procedure or a trial. */
export const otherWords = (id: string): readonly string[] => wordsFor(id)[0]

/** All that it is found by besides its own name. */
export const searchWords = (id: string): readonly string[] => wordsFor(id).flat()
