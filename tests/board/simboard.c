// A controller in simulation: `simboard ELF uart` joins its serial port with standard input and output, in real time; a line '!B4 1' drives a pin, '!a1 2500' a level in mV;
// `simboard ELF trace FILE [MCU]` writes what the port says, as fast as it goes, and drives pins as the file says, 'tick pin level' a line.
// `simboard ELF pins SECONDS [MCU]` writes 'pulse PIN cycle width' for every pulse on any pin, in cycles of 16 MHz and
// 'bus byte byte …' for what a generator that answers at 0x40 on the bus was told at once, 'bus41 byte …' at 0x41 and so on to 0x4F.
// With SPEAKS=FILE somebody else leads the bus: lines 'cycle address byte byte …', each begun then, a byte every 360 cycles and not before the last was taken.
#include <fcntl.h>
#include <poll.h>
#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_twi.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

static avr_t *avr;
static int open_to_receive = 1;
static avr_cycle_count_t rose[256][8];

// A receiver's channel: pulses so long, 50 a second, on up to eight pins.
static struct { char pin[4]; int us; } channels[8];
static void set_pin(const char *pin, int level) { avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(pin[0]), pin[1] - '0'), level); }
static avr_cycle_count_t falls(struct avr_t *which, avr_cycle_count_t when, void *param) {
  (void)which, (void)when;
  set_pin(channels[(long)param].pin, 0);
  return 0;
}
static avr_cycle_count_t rises(struct avr_t *which, avr_cycle_count_t when, void *param) {
  const int us = channels[(long)param].us;
  if (us > 0) set_pin(channels[(long)param].pin, 1), avr_cycle_timer_register(which, us * 16, falls, param);
  return when + 320000;
}
static void pulses(const char *pin, int us) {
  for (long k = 0; k < 8; k++) {
    const int known = !strncmp(channels[k].pin, pin, 2);
    if (!known && channels[k].pin[0]) continue;
    channels[k].us = us;
    if (!known) memcpy(channels[k].pin, pin, 2), avr_cycle_timer_register(avr, 1600 + 3000 * k, rises, (void *)k);
    return;
  }
}

static void drive(const char *pin, int level) {  // '?' a letter to the port, 'B4' high or low, 'a1' to so many mV, '~D4' pulses of so many µs, 0 none
  if (pin[0] == '?') { avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), level); return; }
  if (pin[0] == '~') { pulses(pin + 1, level); return; }
  if (pin[0] == 'a') avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + atoi(pin + 1)), level);
  else avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(pin[0]), pin[1] - '0'), level);
}
// Pins driven as frames go by: lines 'tick pin level', each before that frame is worked out.
static FILE *script;
static long due, frames;
static char due_pin[16];
static int due_level;
static void next_due() {
  if (script && fscanf(script, "%ld %15s %d", &due, due_pin, &due_level) != 3) fclose(script), script = 0;
}
static void script_to(long tick) {
  while (script && due <= tick) drive(due_pin, due_level), next_due();
}

static void letter(struct avr_irq_t *irq, uint32_t value, void *param) {
  static int first = 1, frame;
  (void)irq, (void)param;
  putchar((int)value);
  if (first) frame = value == 'F';
  first = value == '\n';
  if (!first) return;
  if (frame) script_to(++frames + 1);
  if (!script) fflush(stdout);
}
static void xon(struct avr_irq_t *irq, uint32_t value, void *param) { (void)irq, (void)value, (void)param, open_to_receive = 1; }
static void xoff(struct avr_irq_t *irq, uint32_t value, void *param) { (void)irq, (void)value, (void)param, open_to_receive = 0; }
static void edge(struct avr_irq_t *irq, uint32_t value, void *param) {
  (void)irq;
  const int port = (int)(long)param >> 3, bit = (int)(long)param & 7;
  if (value) rose[port][bit] = avr->cycle;
  else if (rose[port][bit]) printf("pulse %c%d %lu %lu\n", port, bit, (unsigned long)rose[port][bit], (unsigned long)(avr->cycle - rose[port][bit]));
}
// A generator on the bus: it answers to its address, and all it is told between a start and a stop is one line.
static int told;
static avr_cycle_count_t away_from, away_to;  // of AWAY, 'from to' in s: nobody answers at 0x41
static char said[2048];
static void bus(struct avr_irq_t *irq, uint32_t value, void *param) {
  (void)irq;
  avr_irq_t *back = param;
  avr_twi_msg_irq_t v;
  v.u.v = value;
  if (v.u.twi.msg & TWI_COND_STOP) {
    if (told) puts(said);
    told = 0;
  }
  if (v.u.twi.msg & TWI_COND_START) {
    if (told) puts(said);
    told = v.u.twi.addr >> 5 == 0x40 >> 4 && !(v.u.twi.addr >> 1 == 0x41 && avr->cycle > away_from && avr->cycle < away_to);
    if (told) {
      strcpy(said, "bus");
      if (v.u.twi.addr >> 1 != 0x40) sprintf(said, "bus%x", v.u.twi.addr >> 1);
      avr_raise_irq(back, avr_twi_irq_msg(TWI_COND_ACK, v.u.twi.addr, 1));
    }
  } else if (told && (v.u.twi.msg & TWI_COND_WRITE)) {
    if (strlen(said) < sizeof said - 8) sprintf(said + strlen(said), " %u", v.u.twi.data);
    avr_raise_irq(back, avr_twi_irq_msg(TWI_COND_ACK, v.u.twi.addr, 1));
  }
}

// One that leads: what it says to a controller that follows. The simulator's own slave knows no end of a message, so what its bus would show is written into
// the registers here, and the program's own word that it goes on is waited for, as a clock held low is.
enum { SPOKEN_TO = 0x60, A_BYTE = 0x80, THE_END = 0xA0, TWSR_AT = 0xB9, TWAR_AT = 0xBA, TWDR_AT = 0xBB, TWCR_AT = 0xBC };
static FILE *speech;
static avr_cycle_count_t speak_at, since, longest;
static int speak_to, spoken[80], to_say, at_byte;
static void next_speech(void) {
  char line[600];
  to_say = 0, at_byte = -1;
  if (!fgets(line, sizeof line, speech)) { speak_at = ~0ul; return; }
  char *each = line;
  speak_at = strtoul(each, &each, 10), speak_to = (int)strtol(each, &each, 10);
  while (to_say < 80 && *each && *each != '\n') spoken[to_say++] = (int)strtol(each, &each, 10);
}
static void speak(void) {
  uint8_t *const io = avr->data;
  if ((io[TWCR_AT] & 0xC0) == 0xC0) io[TWCR_AT] &= 0x7F;
  if (avr->cycle < speak_at) return;
  if (at_byte < 0 && !since && (!(io[TWCR_AT] & 0x04) || io[TWAR_AT] >> 1 != speak_to)) { next_speech(); return; }  // it does not answer
  if (!(io[TWCR_AT] & 0x40)) { since = since ? since : avr->cycle; return; }  // it is not done with the last
  if (since && avr->cycle - since > longest) longest = avr->cycle - since;
  since = 0;
  const int what = at_byte < 0 ? SPOKEN_TO : at_byte < to_say ? A_BYTE : THE_END;
  if (what == A_BYTE) io[TWDR_AT] = (uint8_t)spoken[at_byte];
  io[TWSR_AT] = (uint8_t)((io[TWSR_AT] & 7) | what), io[TWCR_AT] = 0x84;  // it answers that it goes on
  speak_at = avr->cycle + 360, at_byte++;
  if (what == THE_END) next_speech();
}

int main(int argc, char **argv) {
  if (argc < 3) return 2;
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  if (elf_read_firmware(argv[1], &firmware)) return 3;
  strcpy(firmware.mmcu, argc > 4 ? argv[4] : "atmega328p");
  firmware.frequency = 16000000;
  avr = avr_make_mcu_by_name(firmware.mmcu);
  avr_init(avr);
  avr->log = 0;
  avr_load_firmware(avr, &firmware);
  const int traced = !strcmp(argv[2], "trace"), serial = traced || !strcmp(argv[2], "uart");
  uint32_t flags = 0;
  avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  avr_irq_t *in = avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
  if (serial) {
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), letter, 0);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XON), xon, 0);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XOFF), xoff, 0);
    if (!traced) fcntl(0, F_SETFL, O_NONBLOCK);
  } else {
    for (const char *port = "ABCDEFGHJKL"; *port; port++)
      for (int bit = 0; bit < 8; bit++) {
        avr_irq_t *pin = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(*port), bit);
        if (pin) avr_irq_register_notify(pin, edge, (void *)(long)(*port << 3 | bit));
      }
    avr_irq_t *from = avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_OUTPUT);
    if (getenv("SPEAKS")) speech = fopen(getenv("SPEAKS"), "r"), next_speech();
    else if (from) avr_irq_register_notify(from, bus, avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_INPUT));
  }
  // The stop switch is open: A0 reads high.
  avr_irq_t *stop = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(argc > 4 && strstr(argv[4], "2560") ? 'F' : 'C'), 0);
  if (stop) avr_raise_irq(stop, 1);
  double from = 0, to = 0;
  if (getenv("AWAY")) sscanf(getenv("AWAY"), "%lf %lf", &from, &to);
  away_from = from * 16e6, away_to = to * 16e6;
  const double until = serial ? 1e9 : atof(argv[3]);
  struct timespec start;
  clock_gettime(CLOCK_MONOTONIC, &start);
  avr_cycle_count_t next_letter = 0, next_look = 0;
  char order[16];
  int aside = 0;
  avr->vcc = avr->avcc = avr->aref = 5000;
  if (traced) script = fopen(argv[3], "r"), next_due(), script_to(1);
  while (avr->cycle < until * 16e6) {
    const int state = avr_run(avr);
    if (state == cpu_Done || state == cpu_Crashed) { fprintf(stderr,"ended %d at %lx cycle %lu\n",state,(unsigned long)avr->pc,(unsigned long)avr->cycle); break; }
    if (speech) speak();
    if (traced || !serial || avr->cycle < next_letter) continue;
    next_letter = avr->cycle + 1500;  // a letter at 115200 baud
    char c;
    if (open_to_receive) {
      const ssize_t n = read(0, &c, 1);
      if (n == 1 && (c == '!' || aside)) {  // not for the port
        if (c == '!') aside = 1;
        else if (c != '\n') order[aside++ - 1] = c;
        if (c == '\n' || aside > 14) {
          order[aside - 1] = 0, aside = 0;
          const int level = atoi(strchr(order, ' ') ? strchr(order, ' ') : "0");
          drive(order, level);
        }
      } else if (n == 1) avr_raise_irq(in, (uint8_t)c);
      else if (n == 0) break;
    }
    if (avr->cycle > next_look) {  // keep to real time
      next_look = avr->cycle + 16000;
      struct timespec now;
      clock_gettime(CLOCK_MONOTONIC, &now);
      const double ahead = avr->cycle / 16e6 - ((now.tv_sec - start.tv_sec) + (now.tv_nsec - start.tv_nsec) / 1e9);
      if (ahead > 0.0005) usleep((useconds_t)(ahead * 1e6));
    }
  }
  if (speech) printf("waited %lu\n", (unsigned long)longest);
  return 0;
}
