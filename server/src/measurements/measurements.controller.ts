import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  adoptMeasurement,
  applyMeasurement,
  createMeasurement,
  measurementRecord,
  updateMeasurement,
} from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { MeasurementsService } from './measurements.service'

class CreateDto extends createZodDto(createMeasurement) {}
class UpdateDto extends createZodDto(updateMeasurement) {}
class AdoptDto extends createZodDto(adoptMeasurement) {}
class ApplyDto extends createZodDto(applyMeasurement) {}
class MeasurementDto extends createZodDto(measurementRecord) {}
const id = z.string().max(40).optional()
class OfQuery extends createZodDto(z.object({ machineId: id, pairId: id, caseId: id })) {}

@ApiTags('measurements')
@Controller('api/measurements')
export class MeasurementsController {
  constructor(private readonly measurements: MeasurementsService) {}

  @Get()
  @ApiOkResponse({ type: [MeasurementDto] })
  list(@Query() query: OfQuery) {
    return this.measurements.list(query)
  }

  @Post()
  @ApiOkResponse({ type: MeasurementDto })
  create(@Body() body: CreateDto) {
    return this.measurements.create(body)
  }

  @Get(':id')
  @ApiOkResponse({ type: MeasurementDto })
  one(@Param('id') id: string) {
    return this.measurements.one(id)
  }

  @Put(':id')
  @ApiOkResponse({ type: MeasurementDto })
  update(@Param('id') id: string, @Body() body: UpdateDto) {
    return this.measurements.update(id, body.rev, body.measured, body.note)
  }

  @Delete(':id')
  @ApiOkResponse({ type: MeasurementDto })
  remove(@Param('id') id: string) {
    return this.measurements.softDelete(id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: MeasurementDto })
  restore(@Param('id') id: string) {
    return this.measurements.restore(id)
  }

  /** Takes values into a new recipe version, as measured. */
  @Post(':id/adopt')
  @HttpCode(200)
  @ApiOkResponse({ type: MeasurementDto })
  adopt(@Param('id') id: string, @Body() body: AdoptDto) {
    return this.measurements.adopt(id, body.base, body.keys)
  }

  /** Notes on the machine or the roll that it was put right. */
  @Post(':id/apply')
  @HttpCode(200)
  @ApiOkResponse({ type: MeasurementDto })
  apply(@Param('id') id: string, @Body() body: ApplyDto) {
    return this.measurements.apply(id, body.what)
  }
}
