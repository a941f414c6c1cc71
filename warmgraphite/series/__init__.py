"""The set: every saved view and every board of a study, drawn one after the other, and a contact sheet of all."""
