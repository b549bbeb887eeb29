/**
 * What a program is written from: plain values, whoever decided them. A recipe hands its own over by name.
 * Lengths in mm, speeds in mm/s, accelerations in mm/s², heats in °C, flows, duties and densities in %.
 */
export interface PrintSettings {
  nozzleFirst: number
  nozzle: number
  bedFirst: number
  bed: number
  diameter: number
  density: number
  flow: number
  flowFirst: number
  flowOuter: number
  flowInner: number
  flowSolid: number
  flowSparse: number
  flowBridge: number
  retract: boolean
  retractLength: number
  retractSpeed: number
  restartExtra: number
  zLift: number
  /** Travels shorter than this are made without a pull-back. */
  minTravel: number
  wipe: number
  /** mm³ left out at the end of a loop. */
  earlyStop: number
  /** s; 0 is off. */
  pressureCompensation: number
  fanOffLayers: number
  fanRampLayers: number
  fan: number
  fanOverhang: number
  fanBridge: number
  /** s */
  minLayerTime: number
  speedFloor: number
  firstHeight: number
  firstWidth: number
  firstSpeed: number
  zOffset: number
  skirtLoops: number
  brimLines: number
  draughtWall: number
  layerHeight: number
  outerWidth: number
  innerWidth: number
  fillWidth: number
  wallCount: number
  topLayers: number
  bottomLayers: number
  sparseDensity: number
  wallOrder: 'inside-first' | 'outside-first'
  seamPlace: 'stacked' | 'tucked' | 'turned-away' | 'scattered'
  outerSpeed: number
  innerSpeed: number
  solidSpeed: number
  topSpeed: number
  sparseSpeed: number
  bridgeSpeed: number
  travelSpeed: number
  outerAcceleration: number
  innerAcceleration: number
  firstAcceleration: number
  travelAcceleration: number
  /** mm/s that may change at once in a corner. */
  cornerChange: number
  junctionDeviation: number
}

/** Names of the settings that are numbers. */
export type NumericPrintSetting = {
  [K in keyof PrintSettings]: PrintSettings[K] extends number ? K : never
}[keyof PrintSettings]
