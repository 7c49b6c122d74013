/* The least slack that a knot takes, in metres. */
double mooring_knot(void);
