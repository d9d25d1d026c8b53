// By `make`: begins, and follows for ever.
#include "follower.h"

int main() {
  follow_begin();
  for (;;) follow_on();
}
