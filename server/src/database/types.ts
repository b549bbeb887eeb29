import type { SignStates } from '@verimend/core'
export type { ChosenMend } from '@verimend/contract'
export type SignStatesJson = SignStates
