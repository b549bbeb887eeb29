import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { createMachine, machineRecord, updateMachine } from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { MachinesService } from './machines.service'

class CreateMachineDto extends createZodDto(createMachine) {}
class UpdateMachineDto extends createZodDto(updateMachine) {}
class MachineDto extends createZodDto(machineRecord) {}

@ApiTags('machines')
@Controller('api/machines')
export class MachinesController {
  constructor(private readonly machines: MachinesService) {}

  @Get()
  @ApiOkResponse({ type: [MachineDto] })
  list() {
    return this.machines.list()
  }

  @Get(':id')
  @ApiOkResponse({ type: MachineDto })
  one(@Param('id') id: string) {
    return this.machines.one(id)
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
    return this.machines.softDelete(id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: MachineDto })
  restore(@Param('id') id: string) {
    return this.machines.restore(id)
  }
}
