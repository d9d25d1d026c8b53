// A controller in simulation: `simboard ELF uart` joins its serial port with standard input and output, in real time;
// `simboard ELF pins SECONDS` writes 'pin cycle width' for every pulse on the servo pins, in cycles of 16 MHz.
#include <fcntl.h>
#include <poll.h>
#include <simavr/avr_ioport.h>
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
static avr_cycle_count_t rose[16];

static void letter(struct avr_irq_t *irq, uint32_t value, void *param) {
  (void)irq, (void)param;
  putchar((int)value);
  if (value == '\n') fflush(stdout);
}
static void xon(struct avr_irq_t *irq, uint32_t value, void *param) { (void)irq, (void)value, (void)param, open_to_receive = 1; }
static void xoff(struct avr_irq_t *irq, uint32_t value, void *param) { (void)irq, (void)value, (void)param, open_to_receive = 0; }
static void edge(struct avr_irq_t *irq, uint32_t value, void *param) {
  (void)irq;
  const int pin = (int)(long)param;
  if (value) rose[pin] = avr->cycle;
  else if (rose[pin]) printf("%d %lu %lu\n", pin, (unsigned long)rose[pin], (unsigned long)(avr->cycle - rose[pin]));
}

int main(int argc, char **argv) {
  if (argc < 3) return 2;
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  if (elf_read_firmware(argv[1], &firmware)) return 3;
  strcpy(firmware.mmcu, "atmega328p");
  firmware.frequency = 16000000;
  avr = avr_make_mcu_by_name(firmware.mmcu);
  avr_init(avr);
  avr->log = 0;
  avr_load_firmware(avr, &firmware);
  const int serial = !strcmp(argv[2], "uart");
  uint32_t flags = 0;
  avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  avr_irq_t *in = avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
  if (serial) {
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), letter, 0);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XON), xon, 0);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUT_XOFF), xoff, 0);
    fcntl(0, F_SETFL, O_NONBLOCK);
  } else {
    for (int pin = 4; pin < 13; pin++)
      if (pin != 11)
        avr_irq_register_notify(avr_io_getirq(avr, pin < 8 ? AVR_IOCTL_IOPORT_GETIRQ('D') : AVR_IOCTL_IOPORT_GETIRQ('B'),
                                              pin < 8 ? pin : pin - 8), edge, (void *)(long)pin);
  }
  // The stop switch is open: A0 reads high.
  avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('C'), 0), 1);
  const double until = serial ? 1e9 : atof(argv[3]);
  struct timespec start;
  clock_gettime(CLOCK_MONOTONIC, &start);
  avr_cycle_count_t next_letter = 0, next_look = 0;
  while (avr->cycle < until * 16e6) {
    const int state = avr_run(avr);
    if (state == cpu_Done || state == cpu_Crashed) { fprintf(stderr,"ended %d at %lx cycle %lu\n",state,(unsigned long)avr->pc,(unsigned long)avr->cycle); break; }
    if (!serial || avr->cycle < next_letter) continue;
    next_letter = avr->cycle + 1500;  // a letter at 115200 baud
    char c;
    if (open_to_receive) {
      const ssize_t n = read(0, &c, 1);
      if (n == 1) avr_raise_irq(in, (uint8_t)c);
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
  return 0;
}
