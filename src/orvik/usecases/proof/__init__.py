"""The Proof stage: findings of map and sheet, acceptances, sheets that come back."""
