import { Module } from '@nestjs/common'
import { CasesModule } from '../cases/cases.module'
import { PairsModule } from '../pairs/pairs.module'
import { MeasurementsModule } from '../measurements/measurements.module'
import { TrialsModule } from '../trials/trials.module'
import { DiagnosisController } from './diagnosis.controller'
import { DiagnosisService } from './diagnosis.service'

@Module({
  imports: [PairsModule, TrialsModule, MeasurementsModule, CasesModule],
  controllers: [DiagnosisController],
  providers: [DiagnosisService],
  exports: [DiagnosisService],
})
export class DiagnosisModule {}
