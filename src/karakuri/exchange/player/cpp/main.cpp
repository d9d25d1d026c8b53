// By `make`: begins, and goes on for ever.
#include "play.h"

int main() {
  play_begin();
  for (;;) play_on();
}
