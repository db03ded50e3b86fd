"""The Proof stage: findings of map and sheet, acceptances, returned files."""
