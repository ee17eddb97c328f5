"""What the evidence carries: verdict, family, strength, doubts."""
