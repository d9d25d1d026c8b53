// Begins following; what to do every frame.
#pragma once
void follow_begin();
void follow_on();
