import { Body, Controller, Delete, Get, HttpCode, Injectable, Module, Param, Post, Put } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { createMachine, machineRecord, updateMachine } from '@verimend/contract'
import type { Machine } from '@verimend/core'
import { createZodDto } from 'nestjs-zod'
import { Database } from '../database/database.module'
import { MachineRow } from '../database/models'
import { Shelved } from '../database/shelved'

class CreateMachineDto extends createZodDto(createMachine) {}
class UpdateMachineDto extends createZodDto(updateMachine) {}
class MachineDto extends createZodDto(machineRecord) {}

@Injectable()
export class Machines extends Shelved<'machine', Machine> {
  constructor(database: Database) {
    super(database, MachineRow, 'machine', 'machine')
  }
}

@ApiTags('machines')
@Controller('api/machines')
export class MachinesController {
  constructor(private readonly machines: Machines) {}

  @Get()
  @ApiOkResponse({ type: [MachineDto] })
  list() {
    return this.machines.list()
  }

  @Get(':id')
  @ApiOkResponse({ type: MachineDto })
  async one(@Param('id') id: string) {
    return this.machines.view(await this.machines.row(id))
  }

  @Post()
  @ApiOkResponse({ type: MachineDto })
  create(@Body() body: CreateMachineDto) {
    return this.machines.create(body.id, body.machine)
  }

  @Put(':id')
  @ApiOkResponse({ type: MachineDto })
  update(@Param('id') id: string, @Body() body: UpdateMachineDto) {
    return this.machines.update(id, body.rev, body.machine)
  }

  @Delete(':id')
  @ApiOkResponse({ type: MachineDto })
  remove(@Param('id') id: string) {
    return this.machines.setRemoved(id, true)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: MachineDto })
  restore(@Param('id') id: string) {
    return this.machines.setRemoved(id, false)
  }
}

@Module({ controllers: [MachinesController], providers: [Machines], exports: [Machines] })
export class MachinesModule {}
