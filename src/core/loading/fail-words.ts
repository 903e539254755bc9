/** Why a picture is unavailable, by the reason in the log. */
export const failWords: Record<string, string> = {
  'bad-address': 'the address is malformed',
  cleartext: 'the address is cleartext http, and its host is not allowed to be',
  'not-granted': 'the app has no permission for the network',
  offline: 'there was no network',
  timeout: 'no byte arrived within the time-out',
  status: 'the server answered with an error',
  unauthorized: 'the server refused the credentials',
  redirects: 'it was redirected again and again',
  truncated: 'the body ended before its length',
  'not-a-picture': 'what came is not a picture',
  'too-large': 'the picture is too large',
  undecodable: 'the picture cannot be decoded',
}
