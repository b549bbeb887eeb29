import type { Analysis } from '../toolpath/analysis'
import type { PathReading } from '../toolpath/reading'

/** What a change is laid over: a file as it was taken apart, and as it was read. */
export interface FileAsRead {
  analysis: Analysis
  reading: PathReading
}
