/** The shortest password that is taken. */
export const LEAST_PASSWORD = 10;

/** The commonest passwords of ten characters and more, and those that this shop's own words suggest. From memory. */
const COMMONEST = new Set(
  `1234567890 12345678910 0123456789 9876543210 0987654321 1111111111 0000000000 1122334455 1234512345 123456789a a123456789
   123123123123 1q2w3e4r5t 1q2w3e4r5t6y qwertyuiop qwertyuiop1 asdfghjkl1 zxcvbnm123 qwerty12345 qwerty123456 qwertz12345
   abcdefghij abcd123456 abc123456789 password12 password123 password1234 passw0rd123 passwort123 motdepasse1 contrasena1
   iloveyou12 iloveyou123 letmein123 welcome123 welcome1234 administrator admin12345 admin123456 changeme123 superman123
   football123 baseball123 michael123 princess123 sunshine123 dragon1234 monkey1234 liverpool1 trustno1234 starwars123
   dynodyno12 horsepower horsepower1 turbocharger torque1234 wheelpower garage1234 prandel123 prandelprandel`.split(
    /\s+/,
  ),
);

/** Why a password is not taken; null: it is. */
export function weakPassword(password: string, own: readonly string[]): string | null {
  if (password.length < LEAST_PASSWORD) return `Choose a password of at least ${LEAST_PASSWORD} characters.`;
  const plain = password.toLowerCase();
  if (COMMONEST.has(plain) || new Set(plain).size < 4)
    return 'This password is among the first that anybody would try. Choose another one; three words are good.';
  const same = own.map((word) => word.trim().toLowerCase()).filter((word) => word.length >= 6);
  if (same.some((word) => plain === word || plain === `${word}1` || plain === `${word}123`))
    return 'This password is your own name, address or shop. Choose another one.';
  return null;
}
