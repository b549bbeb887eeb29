import { Module } from '@nestjs/common'
import { FilamentsModule } from '../filaments/filaments.module'
import { MachinesModule } from '../machines/machines.module'
import { NotebookModule } from '../cases/notebook.module'
import { PairsModule } from '../pairs/pairs.module'
import { MeasurementsController } from './measurements.controller'
import { MeasurementsRepository } from './measurements.repository'
import { MeasurementsService } from './measurements.service'

@Module({
  imports: [NotebookModule, PairsModule, MachinesModule, FilamentsModule],
  controllers: [MeasurementsController],
  providers: [MeasurementsRepository, MeasurementsService],
  exports: [MeasurementsRepository, MeasurementsService],
})
export class MeasurementsModule {}
