"""Boards: pages on which several drawings stand in line, with captions, texts, pictures and a title block."""
