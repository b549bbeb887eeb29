import { Controller, Delete, Get, HttpCode, Param, Post } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { freed, removable, removedThing } from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { RemovedService } from './removed.service'

class RemovedThingDto extends createZodDto(removedThing) {}
class FreedDto extends createZodDto(freed) {}
class ThingParam extends createZodDto(z.object({ kind: removable, id: z.string().max(40) })) {}

/** What was put away. */
@ApiTags('removed')
@Controller('api/removed')
export class RemovedController {
  constructor(private readonly removed: RemovedService) {}

  @Get()
  @ApiOkResponse({ type: [RemovedThingDto] })
  list() {
    return this.removed.list()
  }

  @Post(':kind/:id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: [RemovedThingDto] })
  async restore(@Param() { kind, id }: ThingParam) {
    await this.removed.restore(kind, id)
    return this.removed.list()
  }

  /** Deletes it for good, with its files. */
  @Delete(':kind/:id')
  @ApiOkResponse({ type: FreedDto })
  purge(@Param() { kind, id }: ThingParam) {
    return this.removed.purge(kind, id)
  }
}
