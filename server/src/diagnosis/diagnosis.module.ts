import { Body, Controller, HttpCode, Injectable, Module, Post } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { askDiagnosis, givenDiagnosis } from '@verimend/contract'
import {
  deriveRecipe,
  diagnose,
  inheritedIn,
  pinsOf,
  type Filament,
  type Machine,
  type PathReading,
  type Pins,
} from '@verimend/core'
import { createZodDto } from 'nestjs-zod'
import type { z } from 'zod'
import { PairsModule } from '../pairs/pairs.module'
import { Pairs } from '../pairs/pairs.service'
import { TrialsModule } from '../trials/trials.module'
import { Trials } from '../trials/trials.service'

class AskDto extends createZodDto(askDiagnosis) {}
class GivenDto extends createZodDto(givenDiagnosis) {}

/** The same diagnosis as in a case, for programs: ids in, ranked suspects, reasons and advised steps out. */
@Injectable()
export class Diagnoses {
  constructor(
    private readonly pairs: Pairs,
    private readonly trials: Trials,
  ) {}

  async ask(body: z.infer<typeof askDiagnosis>) {
    const pair = body.pairId ? await this.pairs.detail(body.pairId) : null
    const machine = pair?.machine.machine ?? (body.machine as Machine)
    const filament = pair?.filament.filament ?? (body.filament as Filament)
    const set = Object.fromEntries(
      Object.entries(body.recipe ?? {}).flatMap(([key, value]) =>
        value === null ? [] : [[key, { value, source: 'hand', words: 'As asked.' }]],
      ),
    ) as Pins
    const recipe = deriveRecipe({
      machine,
      filament,
      pins: { ...(pair && pinsOf(pair.version.values)), ...set },
      ...(pair && { relative: inheritedIn(pair.version.values) }),
    })
    const d = diagnose({
      machine,
      filament,
      recipe,
      reading: (body.reading as PathReading | undefined) ?? null,
      signs: body.signs,
      attempts: body.attempts?.map((a, i) => ({ number: i + 1, ...a })),
      checks: [...(body.checks ?? []), ...(pair ? await this.trials.evidence(pair.id) : [])],
      weights: body.weights,
      cannot: body.cannot,
      today: new Date().toISOString().slice(0, 10),
    })
    // the contract keeps what programs need of it, and drops what is for the screen
    return givenDiagnosis.parse({
      ...d.balance,
      ...d.plan,
      mends: d.proposals.slice(0, 30),
    })
  }
}

@ApiTags('diagnosis')
@Controller('api/diagnosis')
export class DiagnosisController {
  constructor(private readonly diagnoses: Diagnoses) {}

  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: GivenDto })
  ask(@Body() body: AskDto) {
    return this.diagnoses.ask(body)
  }
}

@Module({ imports: [PairsModule, TrialsModule], controllers: [DiagnosisController], providers: [Diagnoses] })
export class DiagnosisModule {}
