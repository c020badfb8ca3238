# Case as in English, whatever the locale: in Turkish ones the small I has no dot, and "INVOICE ID"
# would be no invoice. They stand in for R's own throughout the package.
tolower <- function(x) base::tolower(if (dotless()) chartr("I", "i", x) else x)

toupper <- function(x) base::toupper(if (dotless()) chartr("i", "I", x) else x)

dotless <- function() base::tolower("I") != "i"
