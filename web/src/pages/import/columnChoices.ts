/** What a column may be, in the order in which the mapper offers it, and the units that fit. */
export const ROLE_CHOICES: readonly {
  readonly role: string;
  readonly label: string;
  readonly units: readonly string[];
}[] = [
  { role: 'engineSpeed', label: 'Engine speed', units: ['rpm', '1000 rpm'] },
  { role: 'wheelPower', label: 'Wheel power', units: ['kW', 'hp', 'PS', 'W'] },
  { role: 'wheelTorque', label: 'Wheel torque', units: ['N·m', 'lb·ft', 'kgf·m'] },
  { role: 'time', label: 'Time', units: ['s', 'ms', 'hh:mm:ss'] },
  { role: 'rollerSpeed', label: 'Roller speed', units: ['rad/s', 'roller rpm'] },
  { role: 'brakeTorque', label: 'Brake torque', units: ['N·m', 'lb·ft', 'kgf·m'] },
  { role: 'throttle', label: 'Throttle', units: ['%', 'fraction'] },
  { role: 'intakeAir', label: 'Intake air', units: ['°C', '°F', 'K'] },
  { role: 'coolant', label: 'Coolant', units: ['°C', '°F', 'K'] },
  { role: 'oil', label: 'Oil', units: ['°C', '°F', 'K'] },
  { role: 'bayAir', label: 'Air in the bay', units: ['°C', '°F', 'K'] },
  { role: 'stationPressure', label: 'Station pressure', units: ['hPa', 'kPa', 'inHg', 'mmHg', 'psi', 'bar', 'Pa'] },
  { role: 'humidity', label: 'Relative humidity', units: ['%', 'fraction'] },
  { role: 'pullName', label: 'Name of the pull', units: [] },
  { role: 'other', label: 'Keep as it is', units: [] },
  { role: 'ignore', label: 'Leave out', units: [] },
];
