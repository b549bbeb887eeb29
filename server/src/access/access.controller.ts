import { Body, Controller, Delete, Get, HttpCode, Inject, Param, Post, Query, Req, Res } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { phoneAddresses, session, signedInDevices, signIn, signOut } from '@verimend/contract'
import { parseCookie, stringifySetCookie } from 'cookie'
import type { Request, Response } from 'express'
import { createZodDto } from '../http/zodDto'
import { CONFIG, type Config } from '../config'
import { AccessService, LONGEST_DAYS, SESSION_DAYS } from './access.service'
import { addressesForPhones } from './names'

class SignInDto extends createZodDto(signIn) {}
class SignOutQuery extends createZodDto(signOut) {}
class SessionDto extends createZodDto(session) {}
class SignedInDevicesDto extends createZodDto(signedInDevices) {}
class PhoneAddressesDto extends createZodDto(phoneAddresses) {}

/** Name of the cookie that a session hangs on; over TLS one that no other host and no plain page can set. */
const COOKIE = 'verimend'
const COOKIE_OVER_TLS = '__Host-verimend'
export const cookieName = (config: Pick<Config, 'tls'>): string => (config.tls ? COOKIE_OVER_TLS : COOKIE)
/** Ends the name of the cookie by which a device that has signed in before is known again. */
const KNOWN = '-known'
const cookiesOf = ({ headers }: Pick<Request, 'headers'>) => parseCookie(headers.cookie ?? '')
export const tokenOf = (request: Pick<Request, 'headers'>, config: Pick<Config, 'tls'>): string | undefined =>
  cookiesOf(request)[cookieName(config)]

/** Signing in and out, and the way to the phone. */
@ApiTags('session')
@Controller('api/session')
export class AccessController {
  constructor(
    private readonly access: AccessService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  private cookie(value: string, days: number, more = ''): string {
    return stringifySetCookie({
      name: cookieName(this.config) + more,
      value,
      httpOnly: true,
      sameSite: 'strict',
      secure: !!this.config.tls,
      path: '/',
      maxAge: days * 24 * 3600,
    })
  }

  /** Whether a passphrase is asked for, and whether it was given. */
  @Get()
  @ApiOkResponse({ type: SessionDto })
  async state(@Req() request: Request) {
    return { needed: this.access.needed, signedIn: await this.access.accepts(tokenOf(request, this.config)) }
  }

  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: SessionDto })
  async signIn(
    @Body() body: SignInDto,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ) {
    const { token, device } = await this.access.signIn(body, {
      address: request.socket.remoteAddress ?? '',
      agent: request.headers['user-agent'] ?? '',
      device: cookiesOf(request)[cookieName(this.config) + KNOWN],
    })
    response.append('Set-Cookie', this.cookie(token, SESSION_DAYS))
    response.append('Set-Cookie', this.cookie(device, LONGEST_DAYS, KNOWN))
    return { needed: true, signedIn: true }
  }

  /** Signs out, here or on every device. */
  @Delete()
  @ApiOkResponse({ type: SessionDto })
  async signOut(
    @Query() { everywhere }: SignOutQuery,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ) {
    if (everywhere) await this.access.signOutAll()
    else await this.access.signOut(tokenOf(request, this.config))
    response.append('Set-Cookie', this.cookie('', 0))
    return { needed: this.access.needed, signedIn: !this.access.needed }
  }

  /** Where it is signed in to. */
  @Get('devices')
  @ApiOkResponse({ type: SignedInDevicesDto })
  devices(@Req() request: Request) {
    return this.access.devices(tokenOf(request, this.config))
  }

  /** Signs one device out. */
  @Delete('devices/:id')
  @ApiOkResponse({ type: SignedInDevicesDto })
  async signOutDevice(@Param('id') id: string, @Req() request: Request) {
    await this.access.signOutDevice(id)
    return this.access.devices(tokenOf(request, this.config))
  }

  /** Where a phone finds this, and a word that lets it in once. */
  @Post('phone')
  @HttpCode(200)
  @ApiOkResponse({ type: PhoneAddressesDto })
  phone(@Req() request: Request) {
    const addresses = addressesForPhones(this.config, request.socket.localPort ?? this.config.port)
    return { addresses, invitation: addresses.length && this.access.needed ? this.access.invite() : null }
  }
}
