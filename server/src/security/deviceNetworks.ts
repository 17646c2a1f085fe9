import dns from 'node:dns';
import net from 'node:net';

/** This machine and the local network: where instruments stand. */
const USUAL = [
  '127.0.0.0/8',
  '10.0.0.0/8',
  '172.16.0.0/12',
  '192.168.0.0/16',
  '169.254.0.0/16',
  '::1/128',
  'fc00::/7',
  'fe80::/10',
];

/** Networks in which the operator allows instruments (PRANDEL_DEVICE_NETWORKS, CIDR separated by commas). @throws for what is none */
export function deviceNetworks(configured = process.env.PRANDEL_DEVICE_NETWORKS): net.BlockList {
  const list = new net.BlockList();
  for (const text of configured ? configured.split(',') : USUAL) {
    const [address, bits] = text.trim().split('/');
    const family = net.isIP(address ?? '');
    if (family === 0 || !/^\d+$/.test(bits ?? '')) throw new Error(`"${text}" is no network such as 192.168.0.0/16.`);
    list.addSubnet(address!, Number(bits), family === 6 ? 'ipv6' : 'ipv4');
  }
  return list;
}

let allowed: net.BlockList | null = null;

/** Whether an address may be an instrument's. */
export function deviceAllowed(address: string): boolean {
  allowed ??= deviceNetworks();
  const plain = address.replace(/^::ffff:/i, '');
  const family = net.isIP(plain);
  return family !== 0 && allowed.check(plain, family === 6 ? 'ipv6' : 'ipv4');
}

/** Why a host cannot be an instrument's; null: it can, as far as its name tells. */
export function deviceHostProblem(host: string): string | null {
  if (net.isIP(host) !== 0)
    return deviceAllowed(host)
      ? null
      : `${host} is in no network in which instruments are allowed; ask who runs the server`;
  return /^[a-z0-9]([a-z0-9.-]{0,251}[a-z0-9])?$/i.test(host) ? null : 'this is no host name or address';
}

/** Looks a name up and refuses every address outside the allowed networks: a name must not lead elsewhere. */
export const deviceLookup: net.LookupFunction = (host, options, done) => {
  dns.lookup(host, { ...options, all: true }, (error, addresses) => {
    if (error) return done(error, '', 0);
    const good = addresses.filter(({ address }) => deviceAllowed(address));
    if (good.length === 0) return done(new Error('not an allowed network'), '', 0);
    if (options.all) return done(null, good);
    done(null, good[0]!.address, good[0]!.family);
  });
};
