import { Body, Controller, HttpCode, Post } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { askDiagnosis, givenDiagnosis } from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { Gone } from '../http/gone'
import { DiagnosisService } from './diagnosis.service'

class AskDto extends createZodDto(askDiagnosis) {}
class GivenDto extends createZodDto(givenDiagnosis) {}

@ApiTags('diagnosis')
@Controller('api/diagnosis')
export class DiagnosisController {
  constructor(private readonly diagnosis: DiagnosisService) {}

  /** The diagnosis of a case, or of signs on a pair. */
  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: GivenDto })
  ask(@Body() body: AskDto, @Gone() gone: AbortSignal) {
    return this.diagnosis.ask(body, gone)
  }
}
