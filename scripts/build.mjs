#!/usr/bin/env node
import { needPackages } from './lib/packages.mjs'
import { buildStale } from './lib/build.mjs'
await needPackages()
await buildStale()
