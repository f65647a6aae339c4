boat boat 3 back
