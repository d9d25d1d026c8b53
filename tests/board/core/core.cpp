// Pins as a script has them, 'frame pin level' a line (a level 0 to 1023, of a pulse its microseconds as '~pin', a letter to the port as '!'), the bus and the port as lines. Ends after FRAMES.
#include "Arduino.h"
#undef min
#undef max
#undef abs
#include <stdlib.h>
#include <string.h>

#include "SPI.h"
#include "Wire.h"

static uint32_t now;
static long frames, last;
static int level[64], pulse[64];
static void (*told[64])();
static FILE *script;
static long due;
static char due_pin[8];
static int due_level;
static void next_due() {
  if (script && fscanf(script, "%ld %7s %d", &due, due_pin, &due_level) != 3) fclose(script), script = 0;
}
static void script_to(long frame) {
  for (; script && due <= frame; next_due()) {
    if (due_pin[0] == '!') Serial.letters[Serial.count++ & 7] = due_level;
    else if (due_pin[0] == '~') pulse[atoi(due_pin + 1)] = due_level;
    else level[atoi(due_pin)] = due_level;
  }
}

uint32_t micros() {
  now += 5;
  for (int pin = 0; pin < 64; pin++) {
    if (!told[pin]) continue;
    const int high = pulse[pin] > 0 && (int)(now % 20000) < pulse[pin];
    if (high == level[pin]) continue;
    level[pin] = high;
    now -= 5;
    told[pin]();  // it asks for the time itself
  }
  return now;
}
void yield() {}
void pinMode(int, int) {}
int digitalRead(int pin) { return level[pin] != 0; }
int analogRead(int pin) { return level[pin]; }
void analogWrite(int pin, int value) { printf("dim %d %d\n", pin, value); }
void attachInterrupt(int pin, void (*f)(), int) { told[pin] = f; }
void Port::begin(long baud) { printf("baud %ld\n", baud); }
void Port::print(const char *text) { fputs(text, stdout); }
void Port::print(unsigned int number) { printf("%u", number); }
Port Serial, Serial1;

void Spi::begin() {}
void Spi::beginTransaction(SPISettings settings) { hz = settings.hz, printf("spi %u", hz); }
void Spi::transfer(void *bytes, size_t n) {
  for (size_t k = 0; k < n; k++) printf(" %d", ((unsigned char *)bytes)[k]);
  now += n * 8000000 / hz + 1;
}
void Spi::endTransaction() { printf("\n"); }
Spi SPI;

static unsigned char sent[64];
static int count;
void Bus::begin() {}
void Bus::setClock(uint32_t) {}
void Bus::beginTransmission(uint8_t address) { sent[0] = address, count = 1; }
void Bus::write(uint8_t value) {
  if (count < 33) sent[count++] = value;  // 32 bytes and the address: some cores send no more
}
uint8_t Bus::endTransmission() {
  static const char *const gone = getenv("AWAY");  // 'address first last': frames in which nobody answers there
  long who = 0, from = 0, to = -1;
  if (gone) sscanf(gone, "%ld %ld %ld", &who, &from, &to);
  const bool silent = sent[0] == who && frames >= from && frames <= to;
  printf(silent ? "gone" : "bus");
  for (int i = 0; i < count; i++) printf(" %d", sent[i]);
  printf("\n");
  if (sent[1] != 6 + 4 * 12 || sent[0] != 64) return silent;
  if (++frames >= last) exit(0);
  script_to(frames + 1);
  return silent;
}
Bus Wire;

int main() {
  last = atol(getenv("FRAMES"));
  script = fopen(getenv("PINS"), "r");
  next_due();
  level[22] = 1;  // the stop switch is open
  script_to(1);
  setup();
  for (;;) loop();
}
